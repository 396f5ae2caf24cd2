<script lang="ts">
  import Slide from "../../parts/form/Slide.svelte";
  import { Button } from "carbon-components-svelte";
  import { api, type StatusItem } from "../../api/client";
  import { feed } from "../../live/feed.svelte";
  import { notices, said } from "../../live/show.svelte";
  import { macro, time } from "./macro.svelte";

  /** Rehearse on the virtual clock; and, set apart from it, run for real. */
  let { elapsed }: { elapsed: number | undefined } = $props();

  let playing = $state(false);
  let asks = $state(false);
  let frame = 0;
  const length = $derived(macro.rehearsed?.lengthMs ?? 0);
  const onAir = $derived(
    ((feed.values.get("status") as StatusItem[] | undefined) ?? []).some((i) => i.kind === "stream" && i.active),
  );
  const running = $derived(macro.run?.state === "" && !macro.run.ended);
  const throws = $derived(macro.lines.some((l) => l.kind === "one-of"));

  const id = $derived(macro.doc?.id);

  $effect(() => () => cancelAnimationFrame(frame));
  $effect(() => {
    void id;
    playing = false;
    asks = false;
    cancelAnimationFrame(frame);
  });

  export function rehearse() {
    if (playing) {
      playing = false;
      cancelAnimationFrame(frame);
      return;
    }
    if (length === 0) return;
    if (macro.cursor >= length) macro.cursor = 0;
    playing = true;
    let before = performance.now();
    const tick = (now: number) => {
      macro.cursor = Math.min(length, macro.cursor + now - before);
      before = now;
      if (macro.cursor >= length) playing = false;
      if (playing) frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
  }

  async function run() {
    if (!macro.doc) return;
    if (onAir && !asks) {
      asks = true;
      return;
    }
    asks = false;
    const r = await api.POST("/api/v1/macros/{id}/run", { params: { path: { id: macro.doc.id } } });
    if (said(r) && r.data?.refused) notices.add("refused", r.data.refused);
  }

  async function stop() {
    if (macro.doc) said(await api.POST("/api/v1/halt", { body: { macro: macro.doc.id } }));
  }

  async function again() {
    macro.seed++;
    if (macro.doc) await macro.load(macro.doc.id);
  }
</script>

<div class="transport">
  <span class="rehearse">
    <Button size="small" kind="tertiary" id="rehearse" disabled={length === 0} on:click={rehearse}
      >{playing ? "Pause (R)" : "Rehearse (R)"}</Button
    >
    <Button size="small" kind="ghost" id="at-once" disabled={length === 0} on:click={() => (macro.cursor = length)}
      >To the end</Button
    >
    <Slide
      label="The moment that is looked at"
      min={0}
      max={Math.max(1, length)}
      step={1}
      said={time}
      bind:value={macro.cursor}
      disabled={length === 0}
    />
    <span class="mono clock">{time(macro.cursor)} / {time(length)}</span>
    {#if throws}<Button size="small" kind="ghost" on:click={again}>Another throw</Button>{/if}
    {#if macro.rehearsed?.state === "failed"}<span class="wrong cut">{macro.rehearsed.reason}</span>{/if}
  </span>
  <span class="real">
    {#if asks}
      <b class="ask">The show is on air.</b>
      <Button size="small" kind="danger-tertiary" id="run-really" on:click={run}>Run it for real</Button>
      <Button size="small" kind="ghost" on:click={() => (asks = false)}>No</Button>
    {:else if running}
      <span class="mono clock live">{time(elapsed ?? 0)}</span>
      <Button size="small" kind="danger-tertiary" id="halt-macro" on:click={stop}>Halt</Button>
    {:else}
      {#if macro.run?.ended}
        <span class="quiet cut outcome {macro.run.state}" title={macro.run.reason}
          >{macro.run.state} after {time(macro.run.tookMs ?? 0)}{macro.run.reason ? `: ${macro.run.reason}` : ""}</span
        >
      {/if}
      <Button size="small" kind="secondary" id="run-macro" disabled={!macro.doc || macro.doc.steps === 0} on:click={run}
        >Run for real</Button
      >
    {/if}
  </span>
</div>

<style>
  .transport {
    display: flex;
    justify-content: space-between;
    gap: 1.5rem;
    align-items: center;
    padding: 0.35rem 1rem;
    border-bottom: 1px solid var(--line);
    background: var(--plate);
    font-size: 0.8125rem;
  }
  @media (max-width: 950px) {
    .transport {
      flex-wrap: wrap;
    }
  }
  .rehearse,
  .real {
    display: flex;
    gap: 0.6rem;
    align-items: center;
    min-width: 0;
  }
  .real {
    border-left: 1px solid var(--line);
    padding-left: 1.2rem;
  }
  .transport :global(.bx--btn) {
    padding-right: 0.9rem;
  }
  .real {
    flex-shrink: 0;
  }
  .rehearse {
    flex: 1;
  }
  .clock {
    white-space: nowrap;
  }
  .live {
    color: var(--armed);
  }
  .ask {
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0.3rem 0.6rem;
    white-space: nowrap;
  }
  .outcome {
    max-width: 16rem;
  }
  .outcome.failed {
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0.1rem 0.4rem;
  }
</style>
