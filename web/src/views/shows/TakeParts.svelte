<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, type ArchiveDoc, type ArchiveParts, type PartRow } from "../../api/client";
  import Choice from "../../parts/form/Choice.svelte";
  import None from "../../parts/form/None.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { said, show } from "../../live/show.svelte";
  import { kindWords } from "../../live/words.svelte";

  /** Pages, profiles, macros and reflexes of an archive, taken into the show that is open: what becomes of each is told before. */
  let { doc, ontaken }: { doc: ArchiveDoc; ontaken: () => void } = $props();

  const parts = new Answer<ArchiveParts>();
  const there = $derived(parts.of(doc.token));
  const none = { pages: [] as string[], profiles: [] as string[], macros: [] as string[], reflexes: [] as string[] };
  type Sort = keyof typeof none;
  let ticked = $state(none);
  /** What stands in for a device or a controller, where somebody has chosen it. */
  let chosen = $state<Record<string, Record<string, string>>>({ device: {}, controller: {} });
  let inPlace = $state<string[]>([]);

  $effect(() => {
    const params = { path: { token: doc.token } };
    void parts.ask(doc.token, () => api.GET("/api/v1/archives/{token}/parts", { params }));
  });

  const wish = $derived({
    ...ticked,
    devices: { ...there?.devices, ...chosen.device },
    controllers: { ...there?.controllers, ...chosen.controller },
    inPlace,
  });
  const something = $derived(Object.values(ticked).some((ids) => ids.length > 0));
  const rows = new Answer<PartRow[]>();
  const about = $derived(JSON.stringify(wish));
  $effect(() => {
    if (!something) return;
    const params = { path: { token: doc.token } };
    void rows.ask(about, () => api.POST("/api/v1/archives/{token}/parts", { params, body: { ...wish, only: true } }));
  });
  /** What was told last stays until the next is known, so that nothing jumps under the pointer. */
  let told = $state.raw<PartRow[]>([]);
  $effect(() => {
    const next = rows.of(about);
    if (next) told = next;
  });

  async function take() {
    const params = { path: { token: doc.token } };
    const r = await api.POST("/api/v1/archives/{token}/parts", { params, body: wish });
    if (said(r, `Taken from ${doc.name}. Ctrl+Z takes it back.`)) ontaken();
  }

  const toggled = (list: string[], id: string, on: boolean) => (on ? [...list, id] : list.filter((o) => o !== id));
  const lists = $derived<{ sort: Sort; title: string; all: { id: string; name: string; of: string }[] }[]>([
    { sort: "profiles", title: "Profiles, whole", all: there?.profiles ?? [] },
    { sort: "pages", title: "Pages", all: there?.pages ?? [] },
    { sort: "macros", title: "Macros", all: there?.macros ?? [] },
    { sort: "reflexes", title: "Reflexes", all: there?.reflexes ?? [] },
  ]);
  /** What here can stand in for a device or a controller of the archive. */
  const standIns = (r: PartRow) =>
    r.kind === "controller"
      ? (show.doc?.controllers ?? [])
      : (show.doc?.devices ?? []).filter((d) => there?.standIns[r.id]?.includes(d.id));
  const what = (r: PartRow) =>
    r.what === "comes along" ? "comes along" : r.what === "stands in" ? `is ${r.as} here` : "is new";
</script>

<div class="parts">
  {#if there}
    {#each lists.filter((l) => l.all.length > 0) as l (l.sort)}
      <fieldset>
        <legend>{l.title}</legend>
        {#if l.sort !== "pages"}
          <Tick
            label="All of them"
            checked={ticked[l.sort].length === l.all.length}
            onchange={(on) => (ticked[l.sort] = on ? l.all.map((o) => o.id) : [])}
          />
        {/if}
        {#each l.all as o (o.id)}
          <Tick
            label={o.of ? `${o.name}, ${o.of}` : o.name}
            checked={ticked[l.sort].includes(o.id)}
            onchange={(on) => (ticked[l.sort] = toggled(ticked[l.sort], o.id, on))}
            data-part-id={o.id}
          />
        {/each}
      </fieldset>
    {/each}
    {#if something}
      {#if rows.problem(about)}<p class="wrong" role="alert">{rows.problem(about)}</p>{/if}
      <ul data-told={rows.of(about) ? "now" : "soon"}>
        {#each told as r (r.kind + r.id)}
          {@const stands = r.kind === "device" || r.kind === "controller"}
          <li class:chosen={stands || r.clash}>
            <span><b>{kindWords[r.kind] ?? r.kind}</b> {r.title} {stands || r.clash ? "" : what(r)}</span>
            {#if stands}
              <Choice
                label={`${r.title} here`}
                hideLabel
                data-stands-in={r.id}
                value={(r.kind === "device" ? wish.devices : wish.controllers)[r.id] ?? ""}
                choices={[
                  { value: "", text: "comes along" },
                  ...standIns(r).map((o) => ({ value: o.id, text: `is ${o.name} here` })),
                ]}
                onchange={(to) => (chosen = { ...chosen, [r.kind]: { ...chosen[r.kind], [r.id]: to } })}
              />
            {:else if r.clash}
              <Choice
                label={`${r.title}, which is here too`}
                hideLabel
                data-clash={r.id}
                value={inPlace.includes(r.id) ? "in place" : "beside"}
                choices={[
                  {
                    value: "beside",
                    text: r.what === "in place" ? "beside it" : `beside it, as ${r.as}`,
                  },
                  { value: "in place", text: "in its place" },
                ]}
                onchange={(to) => (inPlace = toggled(inPlace, r.id, to === "in place"))}
              />
            {/if}
            {#if r.note}<small>{r.note}</small>{/if}
          </li>
        {/each}
      </ul>
      <div>
        <Button size="small" id="take-parts" disabled={told.length === 0} on:click={take}
          >Take into {show.doc?.name}</Button
        >
      </div>
    {/if}
  {:else}
    <None waits={parts.waits(doc.token)} problem={parts.problem(doc.token)}>There is nothing to take.</None>
  {/if}
</div>

<style>
  .parts {
    display: grid;
    gap: 0.6rem;
  }
  fieldset {
    border: 0;
    padding: 0;
    margin: 0;
    max-height: 12rem;
    overflow: auto;
  }
  legend {
    font-weight: 600;
    padding: 0;
  }
  li {
    display: grid;
    align-items: center;
    padding: 0.15rem 0;
    border-bottom: 1px solid var(--edge);
  }
  .chosen {
    grid-template-columns: 1fr 1fr;
  }
</style>
