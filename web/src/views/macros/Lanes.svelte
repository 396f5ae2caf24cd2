<script lang="ts">
  import Glyph from "../../parts/Glyph.svelte";
  import { macro, time } from "./macro.svelte";
  import { head, pack, ticks, toMs, toX, type Axis } from "../../live/timeline";

  /** One lane per device along a ruler; a bar reaches from the dispatch to the effect, a transition fades on from there. */
  let { axis, elapsed }: { axis: Axis; elapsed: number | undefined } = $props();

  const roleGlyph: Record<string, string> = { other: "macro" };
  const rowHeight = 24;

  let plane = $state<HTMLElement>();
  const doc = $derived(macro.doc);
  const line = $derived(axis.line);
  const marks = $derived(ticks(line));
  const end = $derived(line.length > 0 ? (line[line.length - 1]?.x ?? 0) + (line[line.length - 1]?.width ?? 0) : 0);
  const begins = (segment: number) => doc?.beginsMs[segment] ?? 0;

  /** Pixels that a label of a bar takes, about. */
  const labelWidth = (text: string) => Math.min(190, text.length * 6.4 + 16);

  /** Steps that have a name of their own are called by it. */
  const names = $derived(new Map(macro.lines.filter((l) => l.name).map((l) => [l.id, l.title])));

  /** What always runs, and after it the branches, each with the lanes it has something in. */
  const blocks = $derived.by(() => {
    if (!doc) return [];
    const within = new Map(macro.lines.map((l) => [l.id, l]));
    const named = macro.lines
      .filter((l) => l.kind === "branch")
      .map((l) => {
        const siblings = macro.lines.filter((o) => o.kind === "branch" && o.parent === l.parent);
        const nth = within.get(l.parent ?? "")?.kind === "turns" && l.name ? `${siblings.indexOf(l) + 1} · ` : "";
        return { branch: l.id, title: nth + l.title };
      });
    const block = (branch: string, title: string) => ({
      branch,
      title,
      pauses: pauses.filter((p) => (p.branch ?? "") === branch),
      lanes: doc.lanes.flatMap((lane) => {
        const list = doc.bars
          .map((b, i) => ({ ...b, i }))
          .filter((b) => b.device === lane.device && b.kind !== "put-back" && (b.branch ?? "") === branch)
          .map((b) => {
            const x = toX(line, begins(b.segment) + b.dispatchMs);
            const starts = toX(line, begins(b.segment) + b.startsMs);
            const settles = toX(line, begins(b.segment) + b.settlesMs);
            const title = names.get(b.step) ?? b.title;
            return { ...b, title, x, starts, settles, width: Math.max(settles - x + 8, labelWidth(title)) };
          });
        const bars = pack(list);
        return bars.length > 0 ? [{ ...lane, bars, rows: Math.max(...bars.map((b) => b.row + 1)) }] : [];
      }),
    });
    const all = [block("", ""), ...named.map((n) => block(n.branch, n.title))];
    const drawn = all.filter((b) => b.lanes.length > 0 || b.pauses.length > 0);
    return drawn.length > 0 ? drawn : all.slice(0, 1);
  });
  const backs = $derived(
    (doc?.bars ?? [])
      .filter((b) => b.kind === "put-back")
      .map((b) => ({ ...b, x: toX(line, begins(b.segment) + b.dispatchMs) })),
  );
  const groups = $derived((doc?.groups ?? []).map((g) => ({ ...g, x: toX(line, begins(g.segment) + g.startsMs) })));
  const pauses = $derived(
    (doc?.pauses ?? []).map((p) => {
      const from = toX(line, begins(p.segment) + p.atMs);
      return { ...p, from, to: p.open ? from + 8 : toX(line, begins(p.segment) + p.atMs + p.lengthMs) };
    }),
  );

  /** What was measured: the steps of the last run, by step. */
  const measured = $derived(new Map((macro.run?.steps ?? []).map((s) => [s.step, s])));
  const skews = $derived(new Map((macro.run?.together ?? []).map((t) => [t.step, t])));

  let dragged = $state<{ step: string; from: number; by: number } | undefined>();

  function grab(e: PointerEvent, step: string) {
    if (e.button !== 0) return;
    macro.select(step, e.shiftKey);
    const from = e.clientX;
    dragged = { step, from, by: 0 };
    const move = (m: PointerEvent) => {
      if (dragged && Math.abs(m.clientX - from) > 4) dragged = { ...dragged, by: m.clientX - from };
    };
    const up = () => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", up);
      removeEventListener("keydown", leave, true);
      const d = dragged;
      dragged = undefined;
      if (!d || d.by === 0) return;
      const bar = blocks.flatMap((b) => b.lanes.flatMap((l) => l.bars)).find((b) => b.step === step);
      if (!bar) return;
      const ms = toMs(line, bar.x + d.by) - toMs(line, bar.x);
      void macro.shift(step, Math.round(ms / 50) * 50);
    };
    const leave = (k: KeyboardEvent) => {
      if (k.key !== "Escape") return;
      k.stopPropagation();
      dragged = undefined;
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", up);
    addEventListener("keydown", leave, true);
  }

  function scrub(e: PointerEvent) {
    if (e.button !== 0 || !plane) return;
    const box = plane.getBoundingClientRect();
    const at = (m: PointerEvent) => (macro.cursor = Math.min(toMs(line, m.clientX - box.left - head), axis.length));
    at(e);
    const up = () => {
      removeEventListener("pointermove", at);
      removeEventListener("pointerup", up);
    };
    addEventListener("pointermove", at);
    addEventListener("pointerup", up);
  }
</script>

<div data-help="parts/lanes" class="scroll">
  <div class="plane" bind:this={plane} style:width="{end + head + 24}px" style:--head="{head}px">
    <div class="ruler" role="presentation" onpointerdown={scrub}>
      {#each marks as m (m.ms)}<span class="tick mono" style:left="{head + m.x}px">{time(m.ms)}</span>{/each}
    </div>
    {#each blocks as block (block.branch)}
      <div class="waits" class:branch={block.branch}>
        <span class="headed"
          >{#if block.branch}<b class="cut" title={block.title}>{block.title}</b>{:else}waits{/if}</span
        >
        {#each block.pauses as p (p.step + p.atMs + p.segment)}
          <!-- A wait, drawn to scale. -->
          <button
            class="pause"
            class:open={p.open}
            class:chosen={p.step === macro.step}
            style:left="{head + p.from}px"
            style:width="{Math.max(4, p.to - p.from)}px"
            title={p.open ? `Waits until it is so, at most ${time(p.lengthMs)}` : `Waits ${time(p.lengthMs)}`}
            onclick={() => macro.select(p.step)}
            ><i>{p.open ? `until it is so, at most ${time(p.lengthMs)}` : time(p.lengthMs)}</i></button
          >
        {/each}
      </div>
      {#each block.lanes as lane (lane.device)}
        <div
          class="lane"
          class:away={lane.away}
          style:height="{lane.rows * rowHeight + 10}px"
          style:--role="var(--role-{lane.role})"
        >
          <span class="headed" title="{lane.name}: {lane.latencyMs} ms until a command shows">
            <Glyph name={roleGlyph[lane.role] ?? lane.role} size={14} struck={lane.away} />
            <span class="device cut">{lane.name}</span>
            <span class="mono lag">{lane.device === "synaptor" ? "" : `${lane.latencyMs} ms`}</span>
          </span>
          {#each lane.bars as b (b.i)}
            {@const real = measured.get(b.step)}
            <!-- A step, drawn to scale. -->
            <button
              class="bar"
              class:chosen={b.step === macro.step || macro.more.includes(b.step)}
              class:problem={b.problem}
              class:done={real?.state === "done"}
              class:failed={real?.state === "failed"}
              data-bar={b.step}
              style:left="{head + b.x + (dragged?.step === b.step ? dragged.by : 0)}px"
              style:top="{5 + b.row * rowHeight}px"
              style:width="{Math.max(6, b.starts - b.x)}px"
              style:--settles="{Math.max(0, b.settles - b.starts)}px"
              title="{b.title}: sent at {time(begins(b.segment) + b.dispatchMs)}, shows at {time(
                begins(b.segment) + b.startsMs,
              )}{b.settlesMs > b.startsMs ? `, over at ${time(begins(b.segment) + b.settlesMs)}` : ''}{b.problem
                ? `. ${b.problem}`
                : ''}"
              onpointerdown={(e) => grab(e, b.step)}
            >
              <span class="settle"></span>
              <span class="title cut">{b.title}</span>
            </button>
            {#if real?.startedUs}
              <span
                class="real"
                style:left="{head + toX(line, real.startedUs / 1000)}px"
                style:top="{5 + b.row * rowHeight}px"
                title="Was there {time(real.startedUs / 1000)} after the start"
              ></span>
            {/if}
          {/each}
        </div>
      {/each}
    {/each}
    {#each groups as g (g.step + g.startsMs)}
      <!-- A mark on the ruler. -->
      <button
        class="together"
        class:chosen={g.step === macro.step}
        style:left="{head + g.x}px"
        title="Together: all of it shows at {time(begins(g.segment) + g.startsMs)}; at most {time(
          g.skewMs,
        )} apart{skews.get(g.step)?.measuredUs
          ? `, measured ${((skews.get(g.step)?.measuredUs ?? 0) / 1000).toFixed(1)} ms`
          : ''}"
        onclick={() => macro.select(g.step)}
        ><span class="mono"
          >± {g.skewMs.toFixed(0)} ms{skews.get(g.step)?.measuredUs
            ? ` · was ${((skews.get(g.step)?.measuredUs ?? 0) / 1000).toFixed(1)}`
            : ""}</span
        ></button
      >
    {/each}
    {#each backs as b (b.step)}
      <!-- A mark on the ruler. -->
      <button
        class="back"
        class:chosen={b.step === macro.step}
        style:left="{head + b.x}px"
        title="Puts back what was changed"
        onclick={() => macro.select(b.step)}><span>put back</span></button
      >
    {/each}
    {#each line.filter((s) => s.folded) as s (s.from)}
      <span class="fold" style:left="{head + s.x}px" style:width="{s.width}px"></span>
    {/each}
    <span class="cursor" style:left="{head + toX(line, macro.cursor)}px"></span>
    {#if elapsed !== undefined}<span class="live" style:left="{head + toX(line, elapsed)}px"></span>{/if}
  </div>
</div>

<style>
  .scroll {
    overflow: auto;
    background-image: radial-gradient(var(--raster) 1px, transparent 1px);
    background-size: 16px 16px;
    max-height: 44vh;
    flex-shrink: 0;
  }
  .plane {
    position: relative;
    min-width: 100%;
    padding-bottom: 22px;
  }
  .ruler {
    position: relative;
    height: 24px;
    border-bottom: 1px solid var(--line);
    background: var(--plate);
    cursor: ew-resize;
    touch-action: none;
  }
  .tick {
    position: absolute;
    top: 0;
    bottom: 0;
    padding: 4px 0 0 4px;
    border-left: 1px solid var(--line);
    font-size: 0.6875rem;
    color: var(--quiet);
    white-space: nowrap;
    pointer-events: none;
  }
  .waits {
    position: relative;
    height: 20px;
  }
  .branch {
    border-top: 1px solid var(--edge);
  }
  .branch b {
    font-weight: 600;
    color: var(--text);
  }
  .headed {
    position: sticky;
    left: 0;
    z-index: 3;
    width: var(--head);
    height: 100%;
    display: flex;
    gap: 0.4rem;
    align-items: center;
    padding: 0 0.5rem 0 1rem;
    background: var(--sheet);
    border-right: 1px solid var(--line);
    font-size: 0.75rem;
    color: var(--quiet);
  }
  .device {
    flex: 1;
    color: var(--text);
  }
  .lag {
    font-size: 0.6875rem;
  }
  .away .device {
    text-decoration: line-through;
  }
  .pause {
    position: absolute;
    top: 5px;
    height: 10px;
    padding: 0;
    background: none;
    border: 1px solid var(--quiet);
    border-width: 0 1px;
    color: var(--quiet);
    cursor: pointer;
  }
  .pause::before {
    content: "";
    position: absolute;
    inset: 50% 0 auto;
    border-top: 1px dashed var(--quiet);
  }
  .pause i {
    position: absolute;
    left: 4px;
    top: -4px;
    font-style: normal;
    font-size: 0.6875rem;
    line-height: 1.1;
    background: var(--ground);
    padding: 2px 4px;
    white-space: nowrap;
  }
  .pause.open {
    border-color: var(--armed);
  }
  .pause.chosen i {
    color: var(--select);
  }
  .lane {
    position: relative;
    border-top: 1px solid var(--raster);
  }
  .bar {
    position: absolute;
    height: 18px;
    padding: 0;
    border: 0;
    border-radius: 2px 0 0 2px;
    background: var(--role);
    color: inherit;
    font: inherit;
    cursor: grab;
    touch-action: none;
  }
  .settle {
    position: absolute;
    left: 100%;
    top: 0;
    height: 100%;
    width: var(--settles);
    background: linear-gradient(90deg, var(--role), transparent);
    opacity: 0.6;
  }
  .bar .title {
    position: absolute;
    left: 8px;
    top: 1px;
    font-family: var(--condensed);
    font-size: 0.8125rem;
    line-height: 16px;
    max-width: 182px;
    text-shadow:
      0 0 3px var(--ground),
      0 0 6px var(--ground);
    color: var(--text);
  }
  .chosen.bar {
    outline: 2px solid var(--select);
    outline-offset: 1px;
  }
  .bar.problem {
    background: repeating-linear-gradient(45deg, var(--finding) 0 3px, transparent 3px 6px);
  }
  .bar.failed {
    background: var(--alarm);
  }
  .real {
    position: absolute;
    width: 2px;
    height: 18px;
    background: var(--alarm);
    box-shadow: 0 0 4px var(--ground);
    pointer-events: none;
  }
  .together,
  .back {
    position: absolute;
    top: 44px;
    bottom: 4px;
    width: 9px;
    margin-left: -4px;
    padding: 0;
    background: none;
    border: 0;
    cursor: pointer;
  }
  .together::before,
  .back::before {
    content: "";
    position: absolute;
    inset: 0 4px;
    background: var(--text);
    opacity: 0.8;
  }
  .together::after {
    content: "";
    position: absolute;
    inset: 0 4px 0 -2px;
    border: 1px solid var(--text);
    border-right: 0;
    border-left: 0;
    opacity: 0.8;
  }
  .together span,
  .back span {
    position: absolute;
    bottom: -2px;
    left: 8px;
    font-size: 0.6875rem;
    white-space: nowrap;
    color: var(--quiet);
    background: var(--ground);
    padding: 0 3px;
  }
  .back::before {
    background: repeating-linear-gradient(var(--text) 0 4px, transparent 4px 8px);
  }
  .together.chosen::before,
  .back.chosen::before {
    background: var(--select);
    opacity: 1;
  }
  .fold {
    position: absolute;
    top: 24px;
    bottom: 0;
    pointer-events: none;
    background: repeating-linear-gradient(115deg, transparent 0 7px, var(--hover) 7px 8px);
    opacity: 0.5;
  }
  .cursor,
  .live {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 1px;
    background: var(--select);
    pointer-events: none;
    z-index: 2;
  }
  .live {
    width: 3px;
    background: var(--armed);
  }
</style>
