<script lang="ts">
  import { tick } from "svelte";
  import Glyph from "../../parts/Glyph.svelte";
  import { macro, time } from "./macro.svelte";

  /** The steps as a list for the keyboard, those in a step one deeper. */
  let { onadd, onedit }: { onadd: (first: string) => void; onedit: () => void } = $props();

  const glyphs: Record<string, string> = {
    wait: "clock",
    "wait-for": "clock",
    together: "layers",
    "put-back": "back",
    turns: "repeat",
    "one-of": "repeat",
    if: "next",
    repeat: "repeat",
    run: "macro",
    branch: "next",
  };
  const measured = $derived(new Map((macro.run?.steps ?? []).map((s) => [s.step, s])));
  const planned = $derived(
    new Map((macro.doc?.bars ?? []).map((b) => [b.step, (macro.doc?.beginsMs[b.segment] ?? 0) + b.dispatchMs])),
  );
  const findings = $derived(new Set((macro.doc?.findings ?? []).map((f) => f.step)));

  function detail(l: (typeof macro.lines)[number]): string {
    switch (l.kind) {
      case "wait":
        return l.frames ? `${l.frames} frames` : time(l.ms ?? 0);
      case "wait-for":
        return `at most ${time(l.limitMs ?? 0)}, then ${l.else === "go-on" ? "go on" : "stop"}`;
      case "fade":
        return `over ${time(l.ms ?? 0)}`;
      case "repeat":
        return `${l.count} times`;
      case "branch":
        return l.when ? "" : (l.weight ?? 0) > 1 ? `weight ${l.weight}` : "";
      default:
        return "";
    }
  }

  async function go(by: number, add: boolean) {
    const at = macro.lines.findIndex((l) => l.id === macro.step);
    const to = macro.lines[Math.max(0, Math.min(macro.lines.length - 1, at + by))];
    if (!to) return;
    macro.select(to.id, add);
    await tick();
    focus();
  }

  /** Gives the focus to the selected step. */
  export function focus() {
    document.querySelector<HTMLElement>(`[data-step="${macro.step}"]`)?.focus();
  }

  async function stay(done: Promise<void>) {
    await done;
    focus();
  }

  function onkeydown(e: KeyboardEvent) {
    const ctrl = e.ctrlKey || e.metaKey;
    const key = e.key.toLowerCase();
    if (e.altKey && e.key === "ArrowUp") void stay(macro.move("up"));
    else if (e.altKey && e.key === "ArrowDown") void stay(macro.move("down"));
    else if (e.altKey && e.key === "ArrowRight") void stay(macro.move("in"));
    else if (e.altKey && e.key === "ArrowLeft") void stay(macro.move("out"));
    else if (e.key === "ArrowDown") void go(1, e.shiftKey);
    else if (e.key === "ArrowUp") void go(-1, e.shiftKey);
    else if (e.key === "Enter") onedit();
    else if (e.key === "Delete" || e.key === "Backspace") void stay(macro.remove());
    else if (ctrl && key === "c") macro.copy();
    else if (ctrl && key === "v") void stay(macro.paste());
    else if (ctrl && key === "d") void stay(macro.paste(macro.selected()));
    else if (ctrl && key === "x") {
      macro.copy();
      void stay(macro.remove());
    } else if (!ctrl && key === "a") onadd("");
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<div
  data-help="parts/steps"
  class="steps"
  role="listbox"
  tabindex="-1"
  aria-label="Steps"
  aria-multiselectable="true"
  {onkeydown}
>
  {#each macro.lines as l (l.id)}
    {@const real = measured.get(l.id)}
    {@const at = planned.get(l.id)}
    <div
      class="step {l.kind}"
      class:chosen={l.id === macro.step || macro.more.includes(l.id)}
      class:off={l.off}
      class:found={findings.has(l.id)}
      class:waits={macro.run?.waitsAt === l.id}
      role="option"
      aria-selected={l.id === macro.step || macro.more.includes(l.id)}
      data-step={l.id}
      tabindex={l.id === macro.step ? 0 : -1}
      style:padding-left="{1 + l.depth * 1.4}rem"
      style:--role="var(--role-{l.role || 'other'})"
      onclick={(e) => macro.select(l.id, e.shiftKey || e.ctrlKey)}
      onkeydown={() => {}}
    >
      <span class="spine"></span>
      <Glyph name={glyphs[l.kind] ?? (l.role && l.role !== "other" ? l.role : "macro")} size={16} />
      <span class="title">{l.title}</span>
      <span class="detail"
        >{detail(l)}{#if l.condition}<em>{l.condition}</em>{/if}</span
      >
      {#if l.note}<span class="note" title={l.note}>“{l.note}”</span>{/if}
      <span class="times mono">
        {#if at !== undefined}{time(at)}{/if}
        {#if real}<b class={real.state} title="Sent, and there, in the last run"
            >{time(real.dispatchedUs / 1000)}{real.startedUs ? ` → ${time(real.startedUs / 1000)}` : ""}</b
          >{/if}
      </span>
    </div>
    {#if l.problem}<p class="problem" style:padding-left="{2.7 + l.depth * 1.4}rem">{l.problem}</p>{/if}
  {:else}
    <p class="quiet none">
      This macro does nothing yet. Type what it should do first, below: every action of every device can be a step.
    </p>
  {/each}
</div>

<style>
  .steps {
    flex: 1;
    overflow: auto;
    min-height: 90px;
    padding: 0.2rem 0;
    border-top: 1px solid var(--line);
    outline: none;
  }
  .step {
    display: flex;
    align-items: center;
    gap: 0.6rem;
    height: 28px;
    padding-right: 1rem;
    font-size: 0.875rem;
    cursor: default;
    position: relative;
    white-space: nowrap;
  }
  .step:hover {
    background: var(--menu);
  }
  .spine {
    width: 3px;
    height: 18px;
    background: var(--role);
    flex-shrink: 0;
  }
  .step:is(.wait, .wait-for, .together, .branch, .turns, .if, .one-of, .repeat, .put-back) .spine {
    background: var(--edge);
  }
  .chosen {
    background: var(--hover);
    box-shadow: inset 3px 0 var(--select);
  }
  .title {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .off .title {
    text-decoration: line-through;
    color: var(--quiet);
  }
  .detail,
  .note {
    color: var(--quiet);
    font-size: 0.8125rem;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  em {
    font-style: normal;
    margin-left: 0.4rem;
  }
  .found .title::after {
    content: "";
    display: inline-block;
    width: 7px;
    height: 7px;
    border-radius: 4px;
    background: var(--finding);
    margin-left: 0.5rem;
    vertical-align: 1px;
  }
  .waits {
    background: var(--armed-ground);
  }
  .times {
    margin-left: auto;
    color: var(--quiet);
    font-size: 0.75rem;
  }
  .times b {
    margin-left: 0.8rem;
    font-weight: 400;
    color: var(--text);
  }
  .times b.failed {
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0 0.3rem;
  }
  .problem {
    color: var(--finding);
    font-size: 0.8125rem;
    padding-right: 1rem;
  }
  .none {
    padding: 0.8rem 1rem;
    font-size: 0.875rem;
  }
</style>
