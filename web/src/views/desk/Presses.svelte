<script lang="ts">
  import { SvelteMap } from "svelte/reactivity";
  import { api, type Entry } from "../../api/client";
  import { feed } from "../../live/feed.svelte";
  import { mayReturn } from "../../live/runs.svelte";
  import { show } from "../../live/show.svelte";
  import { ago, clock, ms } from "../../live/words.svelte";
  import Act from "../../parts/form/Act.svelte";
  import PutBack from "../../parts/PutBack.svelte";

  /** The last presses with what became of them; each can be put back for two minutes. */
  const shown = 14;

  const entries = new SvelteMap<string, Entry>();
  let back = $state("");
  let problem = $state("");
  let loaded = $state(false);
  $effect(() => {
    feed.follow("desk-presses", ["journal"]);
    return () => feed.follow("desk-presses", []);
  });
  $effect(() => {
    void [feed.epoch, show.doc?.id];
    void load();
  });
  $effect(() => feed.hear(take));
  /** A run tells of itself many times a second: only what is shown here counts. */
  function take(e: Entry) {
    const was = entries.get(e.id);
    if (
      was &&
      was.outcome === e.outcome &&
      was.title === e.title &&
      was.reason === e.reason &&
      was.latencyUs === e.latencyUs
    )
      return;
    entries.set(e.id, { ...e, steps: [] });
    const all = [...entries.keys()].sort();
    for (const id of all.slice(0, Math.max(0, all.length - 4 * shown))) entries.delete(id);
  }
  async function load() {
    const { data, error } = await api.GET("/api/v1/journal", { params: { query: { limit: 2 * shown } } });
    for (const e of data ?? []) take(e);
    problem = error ? error.detail : "";
    loaded = true;
  }

  const rows = $derived(
    [...entries.values()]
      .filter((e) => (!e.show || e.show === show.doc?.id) && e.gesture !== "access")
      .sort((a, b) => (a.id < b.id ? 1 : -1))
      .slice(0, shown),
  );
  const bad = ["refused", "dropped", "failed", "unconfirmed", "disagreed"];
</script>

{#if problem}<p role="alert">{problem}</p>{/if}
<ol>
  {#each rows as e (e.id)}
    <li data-press={e.id} class:bad={bad.includes(e.outcome)}>
      <span class="mono quiet">{ago(e.at, clock.now)}</span>
      <span class="what"
        ><b>{e.title || `${e.control} ${e.gesture}`}</b>
        <em>{e.outcome}</em>{#if e.latencyUs}<span class="mono quiet">{" "}{ms(e.latencyUs)}</span>{/if}
        {#if e.reason}<small class="reason">{e.reason}</small>{/if}
        <small>{e.controllerName} {e.control}{e.actor ? `, ${e.actor}` : ""}</small></span
      >
      {#if mayReturn(e, clock.now)}
        <Act onclick={() => (back = e.id)}>Put back …</Act>
      {/if}
    </li>
  {:else}
    <li class="quiet none">{loaded ? "Nothing has been pressed yet." : "Loading …"}</li>
  {/each}
</ol>
{#if back}<PutBack entry={back} onclose={() => (back = "")} />{/if}

<style>
  li {
    display: grid;
    grid-template-columns: 2.6rem minmax(0, 1fr) auto;
    gap: 0.5rem;
    align-items: baseline;
    padding: 0.25rem 0.75rem;
    border-top: 1px solid var(--line);
    font-size: 0.875rem;
  }
  .none {
    display: block;
  }
  b {
    font-weight: 600;
  }
  small {
    display: block;
    color: var(--quiet);
    font-size: 0.75rem;
  }
  .reason {
    color: inherit;
  }
  em {
    font-style: normal;
  }
  .bad em {
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0 0.35rem;
  }
  p {
    padding: 0.25rem 0.75rem;
  }
</style>
