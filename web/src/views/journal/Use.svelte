<script lang="ts">
  import { api, type Control, type Controller, type Use } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { show } from "../../live/show.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import None from "../../parts/form/None.svelte";
  import SmallPlate from "../../parts/SmallPlate.svelte";
  import Rows from "../../parts/form/Rows.svelte";

  /** How often controls were used in a time, drawn on the controllers, and as a list. */
  const times = [
    { value: "1", text: "Last hour" },
    { value: "12", text: "Last 12 hours" },
    { value: "24", text: "Last 24 hours" },
    { value: "168", text: "Last 7 days" },
  ];
  let hours = $state("12");
  const answer = new Answer<Use[]>();
  const list = $derived(answer.of(hours) ?? []);
  $effect(() => {
    void [feed.epoch, show.doc?.id];
    const query = { since: new Date(Date.now() - Number(hours) * 3_600_000).toISOString() };
    void answer.ask(hours, () => api.GET("/api/v1/uses", { params: { query } }));
  });
  const of = $derived(new Map(list.map((u) => [`${u.controller}/${u.control}`, u])));
  const most = $derived(Math.max(1, ...list.map((u) => u.n)));
  const used = (c: Controller) => c.controls.reduce((n, k) => n + (of.get(`${c.slug}/${k.id}`)?.n ?? 0), 0);
  /** How strong a control is drawn: by the logarithm, so that a fader that was slid a thousand times leaves the keys to be told apart. */
  const heat = (c: Controller, k: Control) => {
    const n = of.get(`${c.slug}/${k.id}`)?.n ?? 0;
    return n === 0 ? 0 : 15 + Math.round((85 * Math.log1p(n)) / Math.log1p(most));
  };
  const often = (n: number) => (n === 1 ? "once" : `${n} times`);
  const columns = [
    { text: "Controller", by: (u: Use) => u.name },
    { text: "Control", by: (u: Use) => u.control },
    { text: "What, among others", by: (u: Use) => u.title },
    { text: "Times", numeric: true, by: (u: Use) => u.n },
    { text: "Gone wrong", numeric: true, by: (u: Use) => u.failed },
  ];
</script>

<div class="sheet-of" data-help="journal/use-of-controls">
  <div class="when"><Choice label="When" choices={times} bind:value={hours} /></div>
  <div class="plates">
    {#each show.doc?.controllers ?? [] as c (c.id)}
      <div data-use={c.slug}>
        <SmallPlate
          controller={c}
          cell={Math.min(46, 300 / c.width)}
          label="used {often(used(c))}"
          caption={often(used(c))}
          fill={(k) => `color-mix(in srgb, var(--text) ${heat(c, k)}%, var(--plate))`}
        >
          {#snippet inside(k)}
            {@const u = of.get(`${c.slug}/${k.id}`)}
            {#if u}
              <text
                x={k.x + k.width / 2}
                y={k.y + k.height / 2 + 0.11}
                style:fill={heat(c, k) > 50 ? "var(--ground)" : "var(--text)"}
                >{u.n}<title>{k.id}: {often(u.n)}, {u.failed} gone wrong; {u.title}</title></text
              >
            {/if}
          {/snippet}
        </SmallPlate>
      </div>
    {/each}
  </div>
  {#if list.length > 0}
    <Rows label="Use of controls" {columns} rows={list} key={(u) => `${u.controller}/${u.control}`}>
      {#snippet cells(u)}
        <td>{u.name}</td><td class="mono">{u.control}</td><td>{u.title}</td><td class="num mono">{u.n}</td>
        <td class="num mono">{u.failed || ""}</td>
      {/snippet}
    </Rows>
  {:else}
    <None waits={answer.waits(hours)} problem={answer.problem(hours)}>No control was touched in this time.</None>
  {/if}
</div>

<style>
  .when {
    width: 12rem;
  }
  .plates {
    display: flex;
    flex-wrap: wrap;
    gap: 1.5rem;
    margin: 1rem 0;
    align-items: flex-end;
  }
  text {
    font: 600 0.3px var(--condensed);
    text-anchor: middle;
  }
</style>
