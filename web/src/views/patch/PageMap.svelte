<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, type PageMap as PageMaps } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { show } from "../../live/show.svelte";

  /** How one gets from page to page of a profile: in columns by the presses from Home. */
  let { profile, onclose, ongo }: { profile: string; onclose: () => void; ongo: (page: string) => void } = $props();

  const answer = new Answer<PageMaps[]>();
  const maps = $derived(answer.of(profile) ?? []);
  $effect(() => {
    void show.doc;
    const params = { path: { id: profile } };
    void answer.ask(profile, () => api.GET("/api/v1/profiles/{id}/map", { params }));
  });

  const columnWidth = 210;
  const boxWidth = 150;
  const rowHeight = 62;
  const boxHeight = 44;

  /** Places every page of a zone: the column is the number of presses, what cannot be reached stands last. */
  function drawn(m: PageMaps) {
    const far = Math.max(0, ...m.pages.map((p) => p.presses));
    const used: Record<number, number> = {};
    const boxes = m.pages.map((p) => {
      const column = p.presses < 0 ? far + 1 : p.presses;
      const row = used[column] ?? 0;
      used[column] = row + 1;
      return { p, x: column * columnWidth, y: row * rowHeight };
    });
    const at = new Map(boxes.map((b) => [b.p.id, b]));
    const ways = new Map<string, { from: (typeof boxes)[number]; to: (typeof boxes)[number]; text: string }>();
    for (const from of boxes)
      for (const e of from.p.edges) {
        const to = at.get(e.to);
        if (!to || to === from || (e.standing && to.p.id === m.home)) continue;
        const key = from.p.id + to.p.id;
        const text = `${e.control}${e.gesture === "press" ? "" : ` ${e.gesture}`}${e.kind === "page-held" ? " held" : ""}`;
        ways.set(key, { from, to, text: [ways.get(key)?.text, text].filter(Boolean).join(", ") });
      }
    return {
      boxes,
      ways: [...ways.values()],
      width: (Math.max(...Object.keys(used).map(Number)) + 1) * columnWidth,
      height: Math.max(...Object.values(used)) * rowHeight,
    };
  }

  const controllersOf = (m: PageMaps) =>
    (show.doc?.controllers ?? [])
      .filter((c) => c.layout === m.layout)
      .map((c) => c.name)
      .join(", ");

  function line(w: ReturnType<typeof drawn>["ways"][number]): string {
    const x1 = w.from.x + boxWidth;
    const y1 = w.from.y + boxHeight / 2;
    const x2 = w.to.x;
    const y2 = w.to.y + boxHeight / 2;
    if (x2 > x1) return `M${x1} ${y1}C${x1 + 30} ${y1} ${x2 - 30} ${y2} ${x2} ${y2}`;
    const y3 = w.from.y + boxHeight;
    return `M${w.from.x + boxWidth / 2} ${y3}C${w.from.x + boxWidth / 2} ${y3 + 14} ${w.to.x + boxWidth / 2} ${w.to.y + boxHeight + 14} ${w.to.x + boxWidth / 2} ${w.to.y + boxHeight}`;
  }
</script>

<svelte:window onkeydown={(e) => e.key === "Escape" && !e.defaultPrevented && (e.preventDefault(), onclose())} />

<div class="map" role="dialog" aria-label="Page map">
  <header>
    <h2>How one gets from page to page</h2>
    <p class="quiet">Columns count the presses from the first page. Standing Home keys are not drawn.</p>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
  </header>
  {#each maps as m (m.layout + m.zone)}
    {@const d = drawn(m)}
    <section>
      <h3>{controllersOf(m)}{maps.filter((o) => o.layout === m.layout).length > 1 ? `, ${m.zone}` : ""}</h3>
      <p class="quiet">
        {m.used} of {m.controls} controls in use on {m.pages.length}
        {m.pages.length === 1 ? "page" : "pages"}, {m.free} free
      </p>
      <svg width={d.width} height={d.height + 16} role="group" aria-label="Pages of {controllersOf(m)}, {m.zone}">
        {#each d.ways as w (w.from.p.id + w.to.p.id)}
          <path class="way" class:back={w.to.x <= w.from.x} d={line(w)}
            ><title>{w.from.p.name} → {w.to.p.name}: {w.text}</title></path
          >
        {/each}
        {#each d.boxes as b (b.p.id)}
          <foreignObject x={b.x} y={b.y} width={boxWidth} height={boxHeight}>
            <!-- A page, drawn. -->
            <button
              class:lost={b.p.presses < 0}
              class:trap={!b.p.wayBack}
              onclick={() => ongo(b.p.id)}
              title="{b.p.name}: {b.p.used} used, {b.p.free} free"
            >
              <b>{b.p.name}</b>
              <span
                >{b.p.presses < 0
                  ? "no key leads here"
                  : !b.p.wayBack
                    ? "no way back"
                    : b.p.presses === 0
                      ? `first; ${b.p.free} free`
                      : `${b.p.presses} ${b.p.presses === 1 ? "press" : "presses"}; ${b.p.free} free`}</span
              >
            </button>
          </foreignObject>
        {/each}
      </svg>
    </section>
  {:else}
    <p class="quiet">This profile has no pages for the controllers on the desk.</p>
  {/each}
</div>

<style>
  .map {
    position: absolute;
    inset: 52px 24px 16px;
    z-index: 30;
    background: var(--sheet);
    border: 1px solid var(--line);
    border-radius: 8px;
    overflow: auto;
    padding: 0.75rem 1.25rem 1.25rem;
    font-size: 0.8125rem;
  }
  header {
    display: flex;
    align-items: baseline;
    gap: 1.25rem;
    margin-bottom: 0.5rem;
  }
  header p {
    flex: 1;
  }
  h2 {
    font-size: 1rem;
  }
  h3 {
    font-size: 0.875rem;
  }
  section {
    padding: 0.5rem 0 1rem;
  }
  svg {
    display: block;
    margin-top: 0.6rem;
    overflow: visible;
  }
  .way {
    fill: none;
    stroke: var(--edge);
    stroke-width: 1.5;
  }
  .way.back {
    stroke-dasharray: 2 3;
  }
  .way:hover {
    stroke: var(--select);
  }
  button {
    width: 100%;
    height: 100%;
    background: var(--hover);
    border: 1px solid var(--line);
    border-radius: 5px;
    color: var(--text);
    font: inherit;
    text-align: left;
    padding: 0.2rem 0.6rem;
    cursor: pointer;
    display: grid;
    align-content: center;
    overflow: hidden;
  }
  button b,
  button span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    line-height: 1.25;
  }
  button span {
    color: var(--quiet);
    font-size: 0.75rem;
  }
  .lost,
  .trap {
    border-color: var(--finding);
  }
  .lost span,
  .trap span {
    color: var(--finding);
  }
</style>
