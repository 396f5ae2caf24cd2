<script lang="ts">
  import { macro, time } from "./macro.svelte";
  import { head, toX, type Axis } from "../../live/timeline";

  let { axis }: { axis: Axis } = $props();

  /** What the audience sees, per output, over the same time as the lanes; and everything at the moment under the cursor. */
  const line = $derived(axis.line);
  const outputs = $derived(
    (macro.rehearsed?.outputs ?? []).map((o) => ({
      ...o,
      seen: o.seen.map((s) => ({ ...s, x: toX(line, s.fromMs), w: toX(line, s.toMs) - toX(line, s.fromMs) })),
    })),
  );
  /** Every reading that changes, as it is at the cursor. */
  const moment = $derived.by(() => {
    const out = new Map<string, { title: string; word: string; changed: boolean }>();
    for (const c of macro.rehearsed?.changes ?? []) {
      const then = c.atMs <= macro.cursor;
      const had = out.get(c.key);
      if (then) out.set(c.key, { title: c.title, word: c.to, changed: true });
      else if (!had) out.set(c.key, { title: c.title, word: c.from, changed: false });
    }
    return [...out.values()];
  });
</script>

<section aria-label="What the audience sees">
  <h3>What the audience sees</h3>
  <div class="outputs" style:--head="{head}px">
    {#each outputs as o (o.key)}
      <div class="output">
        <span class="headed cut" title={o.title}>{o.title.replace(": ", " · ")}</span>
        {#each o.seen as s (s.fromMs)}
          <span
            class="seen"
            class:before={!s.step}
            class:short={s.step && s.toMs - s.fromMs < 500 && s.toMs < (macro.rehearsed?.lengthMs ?? 0)}
            style:left="{head + s.x}px"
            style:width="{Math.max(2, s.w)}px"
            title="{s.word}: {time(s.toMs - s.fromMs)}"
            ><b>{s.word}</b>{#if s.w > 120}<i class="mono">{time(s.toMs - s.fromMs)}</i>{/if}</span
          >
        {/each}
        <span class="cursor" style:left="{head + toX(line, macro.cursor)}px"></span>
      </div>
    {:else}
      <p class="quiet none">
        {macro.cannot ? `It cannot be rehearsed: ${macro.cannot}` : "It changes no picture that the audience sees."}
      </p>
    {/each}
  </div>
  {#if moment.length > 0}
    <p class="state" aria-live="off">
      <span class="mono at">at {time(macro.cursor)}</span>
      {#each moment as s (s.title)}
        <span class="item" class:changed={s.changed}>{s.title} <b>{s.word}</b></span>
      {/each}
    </p>
  {/if}
</section>

<style>
  section {
    border-top: 1px solid var(--line);
    background: var(--plate);
  }
  h3 {
    font-size: 0.75rem;
    font-weight: 400;
    color: var(--quiet);
    padding: 0.35rem 1rem 0.15rem;
  }
  .output {
    position: relative;
    height: 26px;
    overflow: hidden;
  }
  .headed {
    position: absolute;
    left: 0;
    width: var(--head);
    padding: 0 0.5rem 0 1rem;
    line-height: 24px;
    font-size: 0.75rem;
    box-sizing: border-box;
  }
  .seen {
    position: absolute;
    top: 2px;
    height: 20px;
    line-height: 20px;
    background: var(--line);
    border-left: 2px solid var(--text);
    padding-left: 5px;
    box-sizing: border-box;
    overflow: hidden;
    white-space: nowrap;
    font-size: 0.75rem;
    font-family: var(--condensed);
  }
  .seen.before {
    background: var(--hover);
    border-left-color: transparent;
    color: var(--quiet);
  }
  .seen.short {
    border-left-color: var(--finding);
    background: color-mix(in srgb, var(--finding) 30%, var(--sheet));
  }
  .seen b {
    font-weight: 600;
  }
  .seen i {
    font-style: normal;
    font-size: 0.6875rem;
    margin-left: 0.6rem;
    color: var(--quiet);
  }
  .cursor {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 1px;
    background: var(--select);
  }
  .none {
    padding: 0.1rem 1rem 0.5rem;
    font-size: 0.8125rem;
  }
  .state {
    display: flex;
    flex-wrap: wrap;
    gap: 0.15rem 1.1rem;
    padding: 0.25rem 1rem 0.45rem;
    font-size: 0.75rem;
    color: var(--quiet);
  }
  .at {
    color: var(--select);
    min-width: 5rem;
  }
  .item b {
    font-weight: 400;
  }
  .changed {
    color: var(--text);
  }
  .changed b {
    font-weight: 600;
  }
</style>
