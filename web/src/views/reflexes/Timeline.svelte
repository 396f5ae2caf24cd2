<script lang="ts">
  import type { Reflex, ReflexOn } from "../../api/client";
  import { feed } from "../../live/feed.svelte";
  import { route } from "../../live/route.svelte";
  import { timeOfDay } from "../../live/words.svelte";
  import { LastMinutes } from "./reflexes.svelte";

  /** The last ten minutes: what happened as ticks, what became of it for each reflex as bars. A tick becomes a reflex, a bar leads to the journal. */
  let { reflexes, onmake }: { reflexes: Reflex[]; onmake: (on: ReflexOn, name: string) => void } = $props();

  const last = new LastMinutes();
  const long = 600_000;
  /** So many are drawn of each line; who needs more has the journal. */
  const most = 200;
  $effect(() => {
    feed.follow("timeline", ["timeline"]);
    const every = setInterval(() => void last.load(), 5000);
    return () => {
      feed.follow("timeline", []);
      clearInterval(every);
    };
  });
  $effect(() => {
    void feed.epoch;
    void last.load();
  });
  $effect(() => {
    if (feed.values.get("timeline")) last.soon();
  });
  const at = (time: string) => `${Math.max(0, 100 - ((last.until.getTime() - Date.parse(time)) / long) * 100)}%`;
  const lines = $derived(
    reflexes
      .map((r) => ({ r, rows: last.doc.judged.filter((j) => j.reflex === r.id).slice(-most) }))
      .filter((l) => l.rows.length > 0),
  );
  const ticks = $derived(last.doc.happened.slice(-most));
</script>

<section aria-label="The last ten minutes">
  <div class="line">
    <span>What happened</span>
    <div class="track" data-timeline="happened">
      {#each ticks as h, i (i)}
        <!-- A mark on a line: its place is its time. -->
        <button
          class="tick"
          style:left={at(h.at)}
          title="{timeOfDay(h.at)} {h.text}. Make a reflex of it"
          aria-label="Make a reflex of: {h.text}"
          onclick={() => onmake(h.on, "")}
        ></button>
      {:else}<em class="quiet">Nothing in the last ten minutes.</em>{/each}
    </div>
  </div>
  {#each lines as l (l.r.id)}
    <div class="line">
      <span class="cut">{l.r.name}</span>
      <div class="track" data-timeline={l.r.name}>
        {#each l.rows as j, i (i)}
          {@const words = `${timeOfDay(j.at)} ${j.text}: ${j.held || j.does}`}
          <!-- A mark on a line: its place is its time. -->
          <button
            class="bar"
            class:held={j.held}
            style:left={at(j.at)}
            title={words}
            aria-label={words}
            onclick={() => j.entry && route.go(`/journal/${j.entry}`)}
          ></button>
        {/each}
      </div>
    </div>
  {/each}
  <div class="line scale quiet" aria-hidden="true">
    <span></span>
    <div class="track">
      {#each [10, 8, 6, 4, 2] as m (m)}<em style:left="{100 - m * 10}%">{m} min</em>{/each}
    </div>
  </div>
</section>

<style>
  section {
    border-top: 1px solid var(--line);
    padding: 0.4rem 1.5rem 0.2rem;
    font-size: 0.75rem;
    max-height: 11rem;
    overflow: auto;
  }
  .line {
    display: grid;
    grid-template-columns: 10rem 1fr;
    align-items: center;
    min-height: 1.3rem;
  }
  .track {
    position: relative;
    height: 1.1rem;
    border-bottom: 1px solid var(--line);
  }
  .scale .track {
    border: 0;
  }
  em {
    position: absolute;
    font-style: normal;
  }
  button {
    position: absolute;
    top: 0;
    height: 100%;
    padding: 0;
  }
  .tick {
    width: 3px;
    background: var(--quiet);
  }
  .bar {
    width: 7px;
    background: var(--select);
  }
  .held {
    background: none;
    border: 1px solid var(--finding);
  }
  button:is(:hover, :focus-visible) {
    background: var(--text);
  }
</style>
