<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import None from "../../parts/form/None.svelte";
  import { Button } from "carbon-components-svelte";
  import { api, type PageMap as PageMaps } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import PagePicture from "./PagePicture.svelte";

  /** How one gets from page to page of a profile: in columns by the presses from Home. */
  let { profile, onclose, ongo }: { profile: string; onclose: () => void; ongo: (page: string) => void } = $props();

  const answer = new Answer<PageMaps[]>();
  const maps = $derived(answer.of(profile) ?? []);
  $effect(() => {
    void show.doc;
    const params = { path: { id: profile } };
    void answer.ask(profile, () => api.GET("/api/v1/profiles/{id}/map", { params }));
  });

  $effect(() => feed.follow("map", show.faceTopics(maps.flatMap((m) => m.pages.map((p) => p.id)))));
  $effect(() => () => feed.follow("map", []));

  /** What is written under a picture. */
  const words = 42;
  /** Room for the ways between two boxes. */
  const between = { x: 44, y: 22 };

  /** The size of a box: a picture of the zone with the words under it, all of a layout alike. */
  function boxOf(m: PageMaps) {
    const controller = show.doc?.controllers.find((c) => c.layout === m.layout);
    const controls = controller?.controls.filter((k) => k.zone === m.zone) ?? [];
    const span = (side: "x" | "y", size: "width" | "height") =>
      Math.max(1, ...controls.map((k) => k[side] + k[size])) - Math.min(...controls.map((k) => k[side]), 0);
    const cell = Math.max(16, Math.min(28, Math.floor(168 / span("x", "width"))));
    return {
      controller,
      cell,
      width: Math.max(140, span("x", "width") * cell + 14),
      height: span("y", "height") * cell + words + 8,
    };
  }

  async function through(m: PageMaps) {
    const body = { profile, layout: m.layout, zone: m.zone, name: "" };
    said(await api.POST("/api/v1/pages/through", { body }), "All of its pages can be gone to. Ctrl+Z takes it back.");
  }

  let room = $state(1180);

  /** How many rows there are, for columns of pages equally far away to fit side by side. */
  function rowsFor(groups: number[], columns: number): number {
    for (let rows = 1; ; rows++)
      if (groups.reduce((sum, n) => sum + Math.ceil(n / rows), 0) <= Math.max(columns, groups.length)) return rows;
  }

  /** Places every page of a zone: those equally many presses away stand together, what cannot be reached stands last. */
  function drawn(m: PageMaps) {
    const box = boxOf(m);
    const far = Math.max(0, ...m.pages.map((p) => p.presses));
    const groups = Array.from({ length: far + 2 }, (_, n) =>
      m.pages.filter((p) => (p.presses < 0 ? far + 1 : p.presses) === n),
    ).filter((g) => g.length > 0);
    const step = { x: box.width + between.x, y: box.height + between.y };
    const rows = rowsFor(
      groups.map((g) => g.length),
      Math.floor((room + between.x) / step.x),
    );
    let column = 0;
    const boxes = groups.flatMap((g) => {
      const first = column;
      column += Math.ceil(g.length / rows);
      return g.map((p, i) => ({ p, x: (first + Math.floor(i / rows)) * step.x, y: (i % rows) * step.y }));
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
      box,
      boxes,
      ways: [...ways.values()],
      width: column * step.x - between.x,
      height: rows * step.y,
    };
  }

  const controllersOf = (m: PageMaps) =>
    (show.doc?.controllers ?? [])
      .filter((c) => c.layout === m.layout)
      .map((c) => c.name)
      .join(", ");

  function line(
    w: ReturnType<typeof drawn>["ways"][number],
    { width, height }: { width: number; height: number },
  ): string {
    const x1 = w.from.x + width;
    const y1 = w.from.y + height / 2;
    const x2 = w.to.x;
    const y2 = w.to.y + height / 2;
    if (x2 > x1) return `M${x1} ${y1}C${x1 + 30} ${y1} ${x2 - 30} ${y2} ${x2} ${y2}`;
    const y3 = w.from.y + height;
    const y4 = w.to.y + height;
    return `M${w.from.x + width / 2} ${y3}C${w.from.x + width / 2} ${y3 + 14} ${w.to.x + width / 2} ${y4 + 14} ${w.to.x + width / 2} ${y4}`;
  }
</script>

<svelte:window onkeydown={(e) => e.key === "Escape" && !e.defaultPrevented && (e.preventDefault(), onclose())} />

<div class="map" role="dialog" aria-label="Page map">
  <header>
    <h2>How one gets from page to page</h2>
    <p class="quiet">From left to right by the presses from the first page. What stands on every page is faint.</p>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
  </header>
  <div bind:clientWidth={room}></div>
  {#each maps as m (m.layout + m.zone)}
    {@const d = drawn(m)}
    <section>
      <h3>{controllersOf(m)}{maps.filter((o) => o.layout === m.layout).length > 1 ? `, ${m.zone}` : ""}</h3>
      <p class="quiet">
        {m.used} of {m.controls} controls in use on {m.pages.length}
        {m.pages.length === 1 ? "page" : "pages"}, {m.free} free
      </p>
      {#if m.through}
        <p class="through">
          {m.through.text}
          <Act data-through={m.zone} onclick={() => through(m)}>Put it so on all of them</Act>
        </p>
      {/if}
      <svg width={d.width} height={d.height + 16} role="group" aria-label="Pages of {controllersOf(m)}, {m.zone}">
        {#each d.ways as w (w.from.p.id + w.to.p.id)}
          <path class="way" class:back={w.to.x <= w.from.x} d={line(w, d.box)}
            ><title>{w.from.p.name} → {w.to.p.name}: {w.text}</title></path
          >
        {/each}
        {#each d.boxes as b (b.p.id)}
          <foreignObject x={b.x} y={b.y} width={d.box.width} height={d.box.height}>
            <!-- A page, drawn. -->
            <button
              class:lost={b.p.presses < 0}
              class:trap={!b.p.wayBack}
              onclick={() => ongo(b.p.id)}
              title="{b.p.name}: {b.p.used} used, {b.p.free} free"
            >
              {#if d.box.controller}
                <PagePicture page={b.p.id} zone={m.zone} controller={d.box.controller} cell={d.box.cell} />
              {/if}
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
    <None waits={answer.waits(profile)} problem={answer.problem(profile)}
      >This profile has no pages for the controllers on the desk.</None
    >
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
    text-align: left;
    padding: 5px 6px;
    display: grid;
    align-content: space-between;
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
