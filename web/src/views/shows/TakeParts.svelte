<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, type ArchiveDoc, type ArchiveParts, type PartRow } from "../../api/client";
  import Choice from "../../parts/form/Choice.svelte";
  import None from "../../parts/form/None.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { said, show } from "../../live/show.svelte";
  import { kindWords } from "../../live/words.svelte";

  /** Pages and macros of an archive, taken into the show that is open: what becomes of each is told before. */
  let { doc, ontaken }: { doc: ArchiveDoc; ontaken: () => void } = $props();

  const parts = new Answer<ArchiveParts>();
  const there = $derived(parts.of(doc.token));
  let pages = $state<string[]>([]);
  let macros = $state<string[]>([]);
  /** What stands in for a device, where somebody has chosen it. */
  let chosen = $state<Record<string, string>>({});
  let beside = $state(true);
  const devices = $derived({ ...there?.devices, ...chosen });

  $effect(() => {
    const params = { path: { token: doc.token } };
    void parts.ask(doc.token, () => api.GET("/api/v1/archives/{token}/parts", { params }));
  });

  const wish = $derived({ pages, macros, devices, beside });
  const rows = new Answer<PartRow[]>();
  const about = $derived(JSON.stringify(wish));
  $effect(() => {
    if (pages.length + macros.length === 0) return;
    const params = { path: { token: doc.token } };
    void rows.ask(about, () => api.POST("/api/v1/archives/{token}/parts", { params, body: { ...wish, only: true } }));
  });
  const told = $derived(rows.of(about) ?? []);

  async function take() {
    const params = { path: { token: doc.token } };
    const r = await api.POST("/api/v1/archives/{token}/parts", { params, body: wish });
    if (said(r, `Taken from ${doc.name}. Ctrl+Z takes it back.`)) ontaken();
  }

  const toggled = (list: string[], id: string, on: boolean) => (on ? [...list, id] : list.filter((o) => o !== id));
  /** The devices here that can stand in. */
  const standIns = (id: string) => (show.doc?.devices ?? []).filter((d) => there?.standIns[id]?.includes(d.id));
  const driven = $derived(told.filter((r) => r.kind === "device"));
  const what = (r: PartRow) =>
    ({
      new: "is new",
      "in place": "takes the place of what has its name here",
      beside: `stands beside it, as ${r.as}`,
      "comes along": r.as === r.title ? "comes along" : `comes along, as ${r.as}`,
      "stands in": `is ${r.as} here`,
    })[r.what];
</script>

<div class="parts">
  {#if there}
    <fieldset>
      <legend>Pages</legend>
      {#each there.pages as p (p.id)}
        <Tick
          label={p.name}
          checked={pages.includes(p.id)}
          onchange={(on) => (pages = toggled(pages, p.id, on))}
          data-page={p.id}
        />
      {/each}
    </fieldset>
    {#if there.macros.length > 0}
      <fieldset>
        <legend>Macros</legend>
        {#each there.macros as m (m.id)}
          <Tick
            label={m.name}
            checked={macros.includes(m.id)}
            onchange={(on) => (macros = toggled(macros, m.id, on))}
            data-macro={m.id}
          />
        {/each}
      </fieldset>
    {/if}
    {#if pages.length + macros.length > 0}
      <Tick label="Put what has a name of something here beside it" bind:checked={beside} />
      {#if driven.length > 0}
        <div class="rows">
          {#each driven as d (d.id)}
            <Choice
              label={d.title}
              data-device={d.id}
              value={devices[d.id] ?? ""}
              choices={[
                { value: "", text: "comes along" },
                ...standIns(d.id).map((o) => ({ value: o.id, text: `is ${o.name} here` })),
              ]}
              onchange={(to) => (chosen = { ...chosen, [d.id]: to })}
            />
          {/each}
        </div>
      {/if}
      {#if rows.problem(about)}<p class="wrong" role="alert">{rows.problem(about)}</p>{/if}
      <ul>
        {#each told as r (r.kind + r.id)}<li><b>{kindWords[r.kind] ?? r.kind}</b> {r.title} {what(r)}</li>{/each}
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
    list-style: disc;
    margin-left: 1.1rem;
  }
</style>
