<script lang="ts">
  import { api, type Macro, type Run } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { axis, head, toX } from "../../live/timeline";

  /** The lanes of a run, small: a bar for each step from its dispatch to its effect, and where the run is. */
  let { run }: { run: Run } = $props();

  const answer = new Answer<Macro>();
  // Of a row that comes many times a second, what stays the same.
  const id = $derived(run.macro);
  const began = $derived(run.started);
  const doc = $derived(answer.of(id));
  $effect(() => {
    const params = { path: { id } };
    void answer.ask(id, () => api.GET("/api/v1/macros/{id}", { params }));
  });

  let width = $state(0);
  const line = $derived(doc ? axis(doc, 0, width + head).line : []);
  const states = $derived(new Map(run.steps.map((s) => [s.step, s])));
  const lanes = $derived(
    (doc?.lanes ?? []).flatMap((l) => {
      const bars = (doc?.bars ?? [])
        .filter((b) => b.device === l.device)
        .map((b) => {
          const begins = doc?.beginsMs[b.segment] ?? 0;
          const x = toX(line, begins + b.dispatchMs);
          return { ...b, x, width: Math.max(5, toX(line, begins + b.settlesMs) - x) };
        });
      return bars.length > 0 ? [{ ...l, bars }] : [];
    }),
  );
  /** Where the run is, drawn by the browser itself: no script runs for it. */
  let cursor = $state<HTMLElement>();
  $effect(() => {
    const all = line.at(-1)?.to ?? 0;
    if (!cursor || all <= 0) return;
    // It moves by whole pixels: more often would be drawn and not be seen.
    const at = (ms: number, pixels: number) => ({
      offset: ms / all,
      transform: `translateX(${toX(line, ms)}px)`,
      easing: `steps(${Math.max(1, Math.round(pixels))})`,
    });
    const moves = cursor.animate(
      line.flatMap((s, i) => (i === 0 ? [at(0, s.width)] : []).concat(at(s.to, line[i + 1]?.width ?? 1))),
      { duration: all, fill: "forwards" },
    );
    moves.currentTime = Math.min(all, Math.max(0, Date.now() - Date.parse(began)));
    return () => moves.cancel();
  });
</script>

<div class="lanes" bind:clientWidth={width} aria-hidden="true">
  {#each lanes as l (l.device)}
    <div class="lane" style:--hue="var(--role-{l.role})" title={l.name}>
      {#each l.bars as b, i (b.step + i)}
        <i class={states.get(b.step)?.state ?? "to-come"} style:left="{b.x}px" style:width="{b.width}px" title={b.title}
        ></i>
      {/each}
    </div>
  {/each}
  <b bind:this={cursor}></b>
</div>

<style>
  .lanes {
    position: relative;
    overflow: hidden;
    margin-top: 0.35rem;
    padding: 1px 0;
    min-height: 10px;
  }
  .lane {
    position: relative;
    height: 9px;
    margin: 2px 0;
    background: var(--hover);
  }
  i {
    position: absolute;
    inset: 0 auto 0 0;
    background: color-mix(in srgb, var(--hue) 45%, transparent);
    border-left: 3px solid var(--hue);
  }
  i.sent {
    background: var(--armed);
  }
  i.done {
    background: var(--text);
  }
  i.failed {
    background: repeating-linear-gradient(45deg, var(--alarm) 0 3px, var(--on-alarm) 3px 6px);
  }
  b {
    position: absolute;
    inset: 0 auto 0 0;
    width: 2px;
    background: var(--armed);
  }
</style>
