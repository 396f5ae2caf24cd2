<script lang="ts">
  import type { Entry } from "../../api/client";
  import { ms } from "../../live/words.svelte";

  /** The waterfall of one input: each stage starts where the one before it ended. */
  let {
    entry,
    scale = 0,
  }: { entry: Entry; /** The length that all of the lane stands for, in microseconds; 0: its own. */ scale?: number } =
    $props();

  const names = {
    guard: "guard",
    input: "input",
    decision: "decision",
    dispatch: "dispatch",
    wire: "on the wire",
    confirmation: "confirmation",
    face: "face",
    "left out": "…",
  } as const;
  const total = $derived(Math.max(1, scale, ...entry.steps.map((s) => s.offsetUs)));
  const bars = $derived(
    entry.steps.map((s, i) => {
      const from = i === 0 ? 0 : (entry.steps[i - 1]?.offsetUs ?? 0);
      return { ...s, left: (from / total) * 100, width: Math.max(0.6, ((s.offsetUs - from) / total) * 100) };
    }),
  );
</script>

<article data-help="journal/a-trace">
  <h2>{entry.title || `${entry.control} ${entry.gesture}`}</h2>
  <p class="quiet">
    <span class="mono">{entry.control}</span>
    {entry.gesture} on {entry.controllerName}, by {entry.via} ({entry.actor}), {new Date(entry.at).toLocaleString(
      "en-GB",
    )}
  </p>
  <p class="outcome {entry.outcome}">
    {entry.outcome}{entry.latencyUs ? ` after ${ms(entry.latencyUs)}` : ""}{entry.reason ? `. ${entry.reason}` : ""}
  </p>
  <ol>
    {#each bars as b, i (i)}
      <li data-stage={b.stage}>
        <span class="stage quiet">{names[b.stage]}</span>
        <span class="lane"><i class={b.stage} style:left="{b.left}%" style:width="{b.width}%"></i></span>
        <span class="mono offset">{ms(b.offsetUs)}</span>
        <span class="text">{b.text}</span>
      </li>
    {/each}
  </ol>
  <p class="quiet mono id">{entry.id}</p>
</article>

<style>
  article {
    padding: 1rem 1.25rem;
  }
  h2 {
    font-size: 1.125rem;
  }
  p {
    margin: 0.4rem 0;
  }
  .outcome {
    font-size: 0.9375rem;
    padding: 0.3rem 0;
  }
  .outcome.refused,
  .outcome.dropped {
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0.4rem 0.6rem;
  }
  ol {
    margin: 1rem 0;
    display: grid;
    gap: 0.75rem;
  }
  li {
    display: grid;
    grid-template-columns: minmax(4.5rem, 6.5rem) minmax(70px, 1fr) 4.6rem;
    gap: 0.1rem 0.5rem;
    align-items: center;
  }
  .lane {
    position: relative;
    height: 10px;
    background: var(--hover);
  }
  .lane i {
    position: absolute;
    inset: 0 auto 0 0;
    background: color-mix(in srgb, var(--quiet) 55%, var(--hover));
    min-width: 2px;
  }
  .lane i.wire,
  .lane i.dispatch {
    background: var(--quiet);
  }
  .lane i.confirmation,
  .lane i.face {
    background: var(--text);
  }
  .offset {
    text-align: right;
  }
  .text {
    grid-column: 2 / -1;
    overflow-wrap: anywhere;
  }
  .id {
    font-size: 0.75rem;
  }
</style>
