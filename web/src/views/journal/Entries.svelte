<script lang="ts">
  import None from "../../parts/form/None.svelte";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import Rows from "../../parts/form/Rows.svelte";
  import { Button, Search } from "carbon-components-svelte";
  import { SvelteMap, SvelteSet } from "svelte/reactivity";
  import { api, type Entry } from "../../api/client";
  import { ago, clock, ms, timeOfDay } from "../../live/words.svelte";
  import { feed } from "../../live/feed.svelte";
  import { route } from "../../live/route.svelte";
  import { mayReturn } from "../../live/runs.svelte";
  import { show } from "../../live/show.svelte";
  import PutBack from "../../parts/PutBack.svelte";
  import Chain from "./Chain.svelte";
  import Trace from "./Trace.svelte";

  const entries = new SvelteMap<string, Entry>();
  let loaded = $state(false);
  let more = $state(false);
  let problem = $state("");
  /** What is looked for; empty: everything. */
  const asked = $state({ words: "", device: "", controller: "", outcome: "" as Entry["outcome"] | "", within: "" });
  const narrow = $derived(Object.values(asked).some((v) => v.trim() !== ""));
  /** The entries that Synaptor has found, where not all are wanted. */
  const found = new SvelteSet<string>();
  let foundFor = "";
  /** Entries of all shows, not only of the one that is open. */
  let all = $state(false);
  let names = $state<Record<string, string>>({});
  let back = $state("");
  /** What comes is shown at once; else the newest that is shown when somebody said so, so that nothing moves under their eyes. */
  let until = $state("");
  /** The entry that another one is held against; empty: none is. */
  let against = $state("");
  const most = 200;
  const health = $derived(show.doc?.journal);

  const open = $derived(route.path.startsWith("/journal/") ? route.path.slice("/journal/".length) : "");
  const of = $derived([...entries.values()].filter((e) => all || !e.show || e.show === show.doc?.id));
  const fits = $derived(of.filter((e) => !narrow || found.has(e.id)).sort((a, b) => (a.id < b.id ? 1 : -1)));
  const rows = $derived(until ? fits.filter((e) => e.id <= until) : fits);
  const later = $derived(fits.length - rows.length);

  $effect(() => {
    void feed.epoch;
    void show.doc?.id;
    void load();
  });
  // What happens meanwhile is asked for as well, no more often than it can be read.
  let soon: ReturnType<typeof setTimeout> | undefined;
  $effect(() => () => clearTimeout(soon));
  $effect(() => {
    if (all) void called();
  });
  $effect(() => {
    feed.follow("journal", ["journal"]);
    return () => feed.follow("journal", []);
  });
  $effect(() =>
    feed.hear((e) => {
      entries.set(e.id, e);
      if (!narrow) return;
      clearTimeout(soon);
      soon = setTimeout(() => void load(), 300);
    }),
  );
  $effect(() => {
    if (open && loaded && !entries.has(open)) void one(open);
  });

  /** What is looked for, as a request says it. */
  const wanted = $derived({
    of: all ? ("all" as const) : ("open" as const),
    ...(asked.words.trim() && { words: asked.words }),
    ...(asked.device && { device: asked.device }),
    ...(asked.controller && { controller: asked.controller }),
    ...(asked.outcome && { outcome: asked.outcome }),
  });
  const since = () =>
    asked.within ? { since: new Date(Date.now() - Number(asked.within) * 60_000).toISOString() } : {};
  const query = $derived.by(() => {
    void Math.floor(clock.now / 60_000); // a time that goes by
    return new URLSearchParams({ ...wanted, ...since() } as Record<string, string>).toString();
  });

  async function load(before?: string) {
    const said = JSON.stringify(asked);
    const { data, error } = await api.GET("/api/v1/journal", {
      params: {
        query: {
          before,
          limit: most,
          ...wanted,
          ...since(),
        },
      },
    });
    if (said !== JSON.stringify(asked)) return; // something else is looked for by now
    problem = error ? error.detail : "";
    if (!data) return;
    const oldest = data.length === most ? (data.at(-1)?.id ?? "") : "";
    for (const id of [...found]) if (said !== foundFor || (!before && id >= oldest)) found.delete(id);
    foundFor = said;
    for (const e of data) {
      entries.set(e.id, e);
      found.add(e.id);
    }
    more = data.length === most;
    loaded = true;
  }

  /** What the shows are called. */
  async function called() {
    const { data } = await api.GET("/api/v1/shows");
    if (data) names = Object.fromEntries(data.shows.map((s) => [s.id, s.name]));
  }

  async function one(id: string) {
    const { data, error } = await api.GET("/api/v1/journal/{id}", { params: { path: { id } } });
    if (data) entries.set(id, data);
    problem = error ? error.detail : "";
  }

  const shown = $derived(entries.get(open));
  const other = $derived(against && against !== open ? entries.get(against) : undefined);
  const devices = $derived([
    { value: "", text: "Any device" },
    ...(show.doc?.devices ?? []).map((d) => ({ value: d.name, text: d.name })),
    { value: "Synaptor", text: "Synaptor" },
  ]);
  const controllers = $derived([
    { value: "", text: "Any controller" },
    ...(show.doc?.controllers ?? []).map((c) => ({ value: c.slug, text: c.name })),
  ]);
  const became: Record<Entry["outcome"], string> = {
    "under way": "Under way",
    confirmed: "Confirmed",
    sent: "Sent",
    guarded: "Guarded",
    refused: "Refused",
    dropped: "Dropped",
    unconfirmed: "Unconfirmed",
    disagreed: "Disagreed",
    overtaken: "Overtaken",
    halted: "Halted",
    failed: "Failed",
  };
  const outcomes = [
    { value: "", text: "Any outcome" },
    ...Object.entries(became).map(([value, text]) => ({ value, text })),
  ];
  const times = [
    { value: "", text: "Any time" },
    { value: "10", text: "Last 10 minutes" },
    { value: "60", text: "Last hour" },
    { value: "720", text: "Last 12 hours" },
  ];
  /** How long a trace is, in microseconds. */
  const lengthOf = (e: Entry) => Math.max(1, ...e.steps.map((s) => s.offsetUs));
  /** How long the second of two presses took, held against the first. */
  function difference(a: Entry, b: Entry): string {
    if (!a.latencyUs || !b.latencyUs) return `${a.outcome}; the other ${b.outcome}`;
    const by = a.latencyUs - b.latencyUs;
    return `confirmed ${ms(Math.abs(by))} ${by > 0 ? "later" : "earlier"} than the other`;
  }
  const columns = [
    { text: "Time", by: (e: Entry) => e.at },
    { text: "Control", by: (e: Entry) => `${e.controllerName} ${e.control}` },
    { text: "By", by: (e: Entry) => `${e.actor} ${e.via}` },
    { text: "What", by: (e: Entry) => e.title },
    { text: "Outcome", by: (e: Entry) => e.outcome },
    { text: "Confirmed after", numeric: true, by: (e: Entry) => e.latencyUs ?? 0 },
  ];

  function step(e: KeyboardEvent) {
    if (e.key === "Escape" && open) route.go("/journal");
    else if (
      (e.key === "ArrowDown" || e.key === "ArrowUp") &&
      rows.length > 0 &&
      (e.target as HTMLElement).tagName !== "INPUT"
    ) {
      const at = rows.findIndex((r) => r.id === open);
      const to = rows[Math.max(0, Math.min(rows.length - 1, at + (e.key === "ArrowDown" ? 1 : -1)))];
      if (to) route.go(`/journal/${to.id}`);
    } else return;
    e.preventDefault();
  }
</script>

<svelte:window onkeydown={step} />
{#if back}<PutBack entry={back} onclose={() => (back = "")} />{/if}

<div class="journal" class:comparing={!!other}>
  <div data-help="journal" class="list">
    <div class="filter">
      <Search size="sm" labelText="Words" placeholder="Any words of it" bind:value={asked.words} />
      <div class="ticks">
        <Tick
          label="Follow live"
          checked={!until}
          onchange={(on) => (until = on ? "" : (fits[0]?.id ?? "-"))}
        />{#if later > 0}<small class="quiet">{later} more by now</small>{/if}
        <Tick label="All shows" bind:checked={all} />
        <a class="table" href="/api/v1/journal/export?{query}">As a table</a>
      </div>
      <Choice label="Device" hideLabel choices={devices} bind:value={asked.device} />
      <Choice label="Controller" hideLabel choices={controllers} bind:value={asked.controller} />
      <Choice label="Outcome" hideLabel choices={outcomes} bind:value={asked.outcome} />
      <Choice label="When" hideLabel choices={times} bind:value={asked.within} />
    </div>
    {#if problem && rows.length > 0}<p class="wrong">{problem}</p>{/if}
    {#if health && health.trimmed > 0}
      <p class="quiet">{health.trimmed} of the oldest entries were let go, to make room for new ones.</p>
    {/if}
    {#if health && (health.problem || health.dropped > 0)}
      <p class="wrong">
        {health.dropped > 0 ? `${health.dropped} entries were not kept. ` : ""}{health.problem
          ? `${health.waiting} entries wait to be written: ${health.problem}. `
          : ""}Presses go on all the same.
      </p>
    {/if}
    <Rows
      label="Journal"
      {columns}
      {rows}
      key={(e) => e.id}
      current={open}
      sticks
      look={(e) => e.outcome.replace(" ", "-")}
      onopen={(e) => route.go(`/journal/${e.id}`)}
    >
      {#snippet cells(e)}
        <td class="mono"
          ><a href="/journal/{e.id}" onclick={(ev) => ev.preventDefault()}>{timeOfDay(e.at, true)}</a><small
            >{ago(e.at, clock.now)} ago{all && e.show ? `, ${names[e.show] ?? "a show that is gone"}` : ""}</small
          ></td
        >
        <td><span class="mono">{e.control}</span> {e.gesture}<small>{e.controllerName}</small></td>
        <td>{e.via}<small>{e.actor}</small></td>
        <td
          >{e.title || "–"}{#if e.reason}<small class="reason">{e.reason}</small>{/if}</td
        >
        <td><span class="outcome {e.outcome.replace(' ', '-')}">{e.outcome}</span></td>
        <td class="num mono">{e.latencyUs ? ms(e.latencyUs) : ""}</td>
      {/snippet}
    </Rows>
    {#if rows.length === 0}
      <div class="empty">
        <None waits={!loaded} {problem}
          >{narrow
            ? "Nothing in the journal is like that."
            : "Every press is recorded here, with what became of it. Press a key to see the first."}</None
        >
      </div>
    {/if}
    {#if more}
      <Button kind="ghost" size="small" on:click={() => load(rows.at(-1)?.id)}>Older ones</Button>
    {/if}
  </div>
  <div class="trace" class:two={!!other}>
    {#if shown}
      <div>
        <p class="back">
          {#if mayReturn(shown, clock.now) || back}
            <Act onclick={() => (back = shown.id)}>Put back …</Act>
          {/if}
          {#if against === shown.id}
            <span class="quiet">Choose the press to hold it against.</span>
            <Act quiet onclick={() => (against = "")}>Leave it</Act>
          {:else if other}
            <Act id="compare-end" onclick={() => (against = "")}>Do not compare</Act>
          {:else}
            <Act id="compare" onclick={() => (against = shown.id)}>Compare with …</Act>
          {/if}
        </p>
        <Trace entry={shown} {...other && { scale: Math.max(lengthOf(shown), lengthOf(other)) }} />
        {#if !other}<Chain entry={shown} />{/if}
      </div>
      {#if other}
        <div data-against={other.id}>
          <p class="back quiet">{difference(other, shown)}</p>
          <Trace entry={other} scale={Math.max(lengthOf(shown), lengthOf(other))} />
        </div>
      {/if}
    {:else}
      <p class="quiet empty">Choose a row to see its trace: what happened, and when.</p>
    {/if}
  </div>
</div>

<style>
  .back {
    padding: 0.6rem 1rem 0;
    display: flex;
    gap: 0.75rem;
    min-height: 2.2rem;
    align-items: center;
    font-size: 0.8125rem;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
  }
  .two > div + div {
    border-left: 1px solid var(--line);
  }
  .ticks {
    display: flex;
    gap: 0.9rem;
    align-items: center;
    flex-wrap: wrap;
  }
  a.table {
    color: var(--link);
  }
  .journal {
    display: grid;
    grid-template-columns: minmax(0, 1.35fr) minmax(380px, 1fr);
    height: 100%;
    font-size: 0.8125rem;
  }
  .comparing {
    grid-template-columns: minmax(0, 1fr) minmax(640px, 1.9fr);
  }
  .list {
    overflow: auto;
    min-height: 0;
  }
  .filter {
    padding: 0.75rem 1rem;
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    gap: 0.5rem;
    align-items: center;
  }
  .filter > :global(:first-child),
  .ticks {
    grid-column: span 2;
  }
  .trace {
    border-left: 1px solid var(--line);
    overflow: auto;
    background: var(--sheet);
  }
  a {
    color: inherit;
    text-decoration: none;
  }
  .outcome {
    padding: 0 0.35rem;
    border-radius: 3px;
    border: 1px solid transparent;
    white-space: nowrap;
  }
  .outcome.refused,
  .outcome.dropped {
    background: var(--alarm);
    color: var(--on-alarm);
  }
  .outcome.unconfirmed,
  .outcome.disagreed {
    border-color: var(--alarm);
  }
  .outcome.overtaken {
    color: var(--quiet);
  }
  .outcome.under-way {
    color: var(--armed);
  }
  .empty {
    padding: 2rem 1rem;
    font-size: 0.875rem;
  }
  .wrong {
    padding: 0.5rem 1rem;
  }
</style>
