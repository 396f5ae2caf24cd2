<script lang="ts">
  import { api, type Hardware } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import { feed } from "../../live/feed.svelte";
  import { hardware, kindWords } from "../../live/hardware.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** Hardware that is here and attached to nothing: each can be attached in one step. */
  $effect(() => {
    feed.follow("loose", ["hardware"]);
    return () => feed.follow("loose", []);
  });
  const loose = $derived(hardware.rows.filter((h) => h.here && !h.link && h.kind !== "keys-here"));
  const layouts = $derived(show.doc?.layouts ?? []);
  const layout = (h: Hardware) =>
    layouts.find((l) => l.type === h.layout)?.title ?? (h.own ? "a layout of its own" : "");
  const choices = $derived([
    { value: "", text: "Attach to …" },
    ...(show.doc?.controllers ?? []).map((c) => ({ value: c.id, text: c.name })),
    ...layouts.map((l) => ({ value: `layout ${l.type}`, text: l.title, group: "A new controller" })),
  ]);

  async function attach(h: Hardware, to: string) {
    if (to.startsWith("layout ")) await add(h, to.slice(7));
    else if (to) {
      const name = h.name === h.match ? "" : h.name;
      const body = { controller: to, kind: h.kind, name, match: h.match, place: h.place ?? "", map: {}, off: false };
      said(await api.POST("/api/v1/links", { body }), `${h.name} is attached.`);
    }
    return false;
  }
  async function add(h: Hardware, type = "") {
    const name = h.name || h.match;
    const body = { hardware: h.id, name, layout: type };
    said(await api.POST("/api/v1/controllers/hardware", { body }), `${name} is added.`);
  }
</script>

{#if show.doc?.unread}<p class="quiet">{show.doc.unread}</p>{/if}
{#if loose.length > 0}<h2>Here, attached to nothing</h2>{/if}
{#each loose as h (h.id)}
  <div class="loose" data-loose={h.match}>
    <p>
      <strong>{h.name || h.match}</strong>
      <span class="quiet"
        >{[layout(h) || kindWords[h.kind], h.kind === "wire" ? `by ${h.via}` : h.via, h.place]
          .filter(Boolean)
          .join(", ")}</span
      >
      {#if h.problem}<span class="wrong">{h.problem}</span>{/if}
    </p>
    <span class="mono quiet">{ago(h.since, clock.now)}</span>
    <Choice label="Attach {h.name || h.match} to" hideLabel value="" {choices} onchange={(to) => attach(h, to)} />
    {#if layout(h) && !h.problem}<Act onclick={() => add(h)}>New controller</Act>{/if}
  </div>
{/each}

<style>
  h2 {
    margin-top: 0.75rem;
    font-size: 0.875rem;
    color: var(--quiet);
  }
  .loose {
    display: grid;
    grid-template-columns: 1fr auto 13rem 9rem;
    gap: 0.25rem 0.75rem;
    align-items: center;
    padding: 0.35rem 0;
    border-bottom: 1px solid var(--edge);
  }
</style>
