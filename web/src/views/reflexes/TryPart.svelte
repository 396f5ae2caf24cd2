<script lang="ts">
  import { untrack } from "svelte";
  import {
    api,
    type Night,
    type PastEvent,
    type ReflexForm,
    type ReflexOn,
    type TriedReflex,
    type Turned,
  } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said } from "../../live/show.svelte";
  import { timeOfDay } from "../../live/words.svelte";
  import { bodyOf } from "./reflexes.svelte";

  /** A reflex seen before air: tried with an event that came or is typed, and what it would have done in the hours that are recorded. */
  let {
    draft,
    fields,
    id,
  }: {
    draft: ReflexForm;
    fields: string[];
    /** Of the reflex, where it is kept; else it cannot run. */
    id: string;
  } = $props();

  const follows = $derived(draft.on.kind === "while");
  let events = $state.raw<PastEvent[]>([]);
  /** Why they could not be read. */
  let problem = $state("");
  let chosen = $state("");
  let typed = $state<Record<string, string>>({});
  /** Somebody took one, typed or tried it: what comes from then on changes nothing of it; until then the latest stands here. */
  let held = $state(false);
  let tried = $state.raw<TriedReflex | undefined>();
  let hours = $state<number | null>(12);
  let night = $state.raw<Night | undefined>();
  let busy = $state(false);

  const body = () => bodyOf($state.snapshot(draft) as ReflexForm);
  /** What it waits for, without what makes no difference to which events there were. */
  const on = $derived(JSON.stringify(draft.on));
  $effect(() => {
    void [on, feed.values.get("timeline")];
    const soon = setTimeout(() => untrack(() => void load()), 300);
    return () => clearTimeout(soon);
  });
  let asked = 0;
  async function load() {
    if (follows || draft.on.kind === "schedule") return;
    const turn = ++asked;
    const { data, error } = await api.POST("/api/v1/reflexes/events", { body: { on: JSON.parse(on) as ReflexOn } });
    if (turn !== asked) return;
    const was = chosen === "" ? undefined : events[Number(chosen)]?.at;
    events = data ?? [];
    problem = error?.detail ?? "";
    const same = events.findIndex((e) => e.at === was);
    if (!held) take("0");
    else chosen = same >= 0 ? String(same) : "";
  }
  function take(at: string) {
    chosen = at;
    const e = events[Number(at)];
    if (e) typed = Object.fromEntries(Object.entries(e.fields ?? {}).map(([k, v]) => [k, String(v)]));
  }
  function choose(at: string) {
    held = true;
    take(at);
  }
  function type(field: string, to: string) {
    held = true;
    typed = { ...typed, [field]: to };
  }
  /** What was typed, numbers and truths as such. */
  const event = () =>
    Object.fromEntries(
      Object.entries(typed).map(([k, v]) => [
        k,
        v === "true" ? true : v === "false" ? false : v !== "" && !Number.isNaN(Number(v)) ? Number(v) : v,
      ]),
    );
  async function rehearse() {
    held = true;
    const r = await api.POST("/api/v1/reflexes/try", { body: { reflex: body(), fields: event() } });
    if (said(r) && r.data) tried = r.data;
  }
  async function run() {
    held = true;
    tried = undefined;
    said(
      await api.POST("/api/v1/reflexes/{id}/run", { params: { path: { id } }, body: { fields: event() } }),
      "It is taken up; the list and the journal say what came of it.",
    );
  }
  async function ask() {
    busy = true;
    const r = await api.POST("/api/v1/reflexes/would", { body: { reflex: body(), hours: hours ?? 12 } });
    busy = false;
    if (said(r) && r.data) night = r.data;
  }
</script>

<section class="rows">
  {#if !follows}
    <h3>Try it with</h3>
    {#if events.length > 0}
      <Choice
        id="try-event"
        label="Event"
        value={chosen}
        choices={events.map((e, i) => ({ value: String(i), text: `${timeOfDay(e.at)} ${e.text}` }))}
        onchange={choose}
      />
    {:else if problem}<p class="wrong">{problem}</p>
    {:else}<p class="quiet">None has come in the last seven days; type one.</p>{/if}
    {#each fields as f (f)}
      <Text id="try-{f}" label={f} value={typed[f] ?? ""} oninput={(v) => type(f, v)} />
    {/each}
    <div class="buttons">
      <Act id="rehearse-reflex" onclick={rehearse}>Rehearse</Act>
      {#if id}<Act id="run-reflex" onclick={run}>Run it now</Act>{/if}
    </div>
    {#if tried}
      <p id="tried" role="status">
        {#if tried.fires}<strong>{tried.does}</strong>{:else}<span class="wrong">It would not. {tried.why}</span>{/if}
      </p>
      {@render turns(tried.changes)}
    {/if}
  {/if}
  <h3>What would it have done?</h3>
  <div class="inline">
    <Amount id="night-hours" label="Hours back" min={0.1} max={168} step="any" bind:value={hours} />
    <Act id="ask-night" disabled={busy} onclick={ask}>{busy ? "It is worked out …" : "Ask the record"}</Act>
  </div>
  {#if night}
    <p id="night" role="status">
      {night.fired === 0
        ? "It would not have fired"
        : `It would have fired ${night.fired === 1 ? "once" : `${night.fired} times`}`}{night.held > 0
        ? `; ${night.held} ${night.held === 1 ? "event" : "events"} would have been held back`
        : ""}. So far as it was recorded since {new Date(night.from).toLocaleString("en-GB")}.
    </p>
    <ol>
      {#each night.rows as r, i (i)}
        <li class:quiet={!r.fires} data-fires={r.fires}>
          <time datetime={r.at}>{timeOfDay(r.at)}</time>
          {r.text}{r.fires ? `: ${r.does}` : `. ${r.why}`}
          {@render turns(r.changes)}
        </li>
      {/each}
    </ol>
    {#if night.more > 0}<p class="quiet">{night.more} more are not listed.</p>{/if}
  {/if}
</section>

{#snippet turns(list: Turned[])}
  {#if list.length > 0}
    <ul>
      {#each list as c, i (i)}<li>{c.title}: {c.from || "not known"} → {c.to}</li>{/each}
    </ul>
  {/if}
{/snippet}

<style>
  section {
    padding: 0 1rem 1.5rem;
    border-top: 1px solid var(--line);
  }
  h3 {
    margin-top: 0.8rem;
  }
  ol > li {
    padding: 0.25rem 0;
    border-top: 1px solid var(--line);
  }
  ul {
    color: var(--quiet);
    padding-left: 1rem;
  }
</style>
