<script lang="ts">
  import { tick } from "svelte";
  import { feed } from "../../live/feed.svelte";
  import { single } from "../../live/keys.svelte";
  import { route } from "../../live/route.svelte";
  import { clock } from "../../live/words.svelte";
  import { point } from "../../parts/point";
  import AddStep from "./AddStep.svelte";
  import Audience from "./Audience.svelte";
  import Lanes from "./Lanes.svelte";
  import { macro } from "./macro.svelte";
  import MacroList from "./MacroList.svelte";
  import MacroSide from "./MacroSide.svelte";
  import Record from "./Record.svelte";
  import StepList from "./StepList.svelte";
  import { axis } from "../../live/timeline";
  import Transport from "./Transport.svelte";

  const open = $derived(route.path.startsWith("/macros/") ? (route.path.split("/")[2] ?? "") : "");
  let add = $state<AddStep>();
  let steps = $state<StepList>();
  let side = $state<MacroSide>();
  let list = $state<MacroList>();
  let transport = $state<Transport>();
  let now = $state(Date.now());
  let width = $state(0);

  $effect(() => {
    const lanes = (macro.doc?.lanes ?? []).map((l) => `readings:${l.device}`);
    feed.follow("macros", ["runs", "findings", "devices", ...lanes]);
  });
  $effect(() => {
    return () => feed.follow("macros", []);
  });
  // The list and the macro are worked out again whenever the show, a device or a finding changes.
  $effect(() => {
    void feed.epoch;
    void feed.values.get("show");
    void feed.values.get("findings");
    void macro.list();
  });
  $effect(() => {
    void feed.epoch;
    void feed.values.get("show");
    void feed.values.get("findings");
    void macro.run?.ended;
    void macro.load(open);
  });
  const running = $derived(!!macro.run && macro.run.state === "" && !macro.run.ended);
  // A rehearsal begins with things as they are: it is made again when what it changes was changed.
  // As text, since a rehearsal that comes out the same must not be a reason for the next.
  const touched = $derived(
    JSON.stringify((macro.rehearsed?.changes ?? []).map((c) => [c.key, feed.values.get(`reading/${c.key}`)])),
  );
  $effect(() => {
    void touched;
    if (running) return;
    const wait = setTimeout(() => void macro.load(open), 200);
    return () => clearTimeout(wait);
  });
  // Somebody was led to a step.
  const led = $derived(route.path.split("/")[3] ?? "");
  $effect(() => {
    if (!led || macro.doc?.id !== open) return;
    macro.select(led);
    route.settle(`/macros/${open}`);
    void tick().then(() => point(document.querySelector<HTMLElement>(`[data-step="${macro.step}"]`)));
  });
  $effect(() => {
    if (!open && macro.loaded && macro.rows[0]) route.go(`/macros/${macro.rows[0].id}`);
  });

  $effect(() => {
    if (!running) return;
    let frame = requestAnimationFrame(function tick() {
      now = Date.now();
      frame = requestAnimationFrame(tick);
    });
    return () => cancelAnimationFrame(frame);
  });
  const elapsed = $derived(
    macro.run && running ? Math.max(0, Math.max(now, clock.now) - Date.parse(macro.run.started)) : undefined,
  );

  function onkeydown(e: KeyboardEvent) {
    if (e.defaultPrevented || !single(e)) return;
    const key = e.key.toLowerCase();
    if (key === "a") add?.begin();
    else if (key === "n") list?.begin();
    else if (key === "r") transport?.rehearse();
    else return;
    e.preventDefault();
  }
</script>

<svelte:window {onkeydown} />

<div class="macros">
  <MacroList bind:this={list} {open} />
  <div class="middle" bind:clientWidth={width}>
    {#if macro.doc}
      <Transport bind:this={transport} {elapsed} />
      {@const shared = axis(macro.doc, macro.rehearsed?.lengthMs ?? 0, width)}
      {#if macro.doc.bars.length > 0 || macro.doc.pauses.length > 0}
        <Lanes axis={shared} {elapsed} />
        <Audience axis={shared} />
      {/if}
      <StepList bind:this={steps} onadd={(first) => add?.begin(first)} onedit={() => side?.edit()} />
      <AddStep bind:this={add} onleave={() => steps?.focus()} />
    {:else if macro.problem}
      <p class="wrong">{macro.problem}</p>
    {:else if open && macro.loaded}
      <p class="quiet none">This macro does not exist any more.</p>
    {:else if macro.loaded}
      <p class="quiet none">
        A macro is a list of steps that one press starts. Name a new one at the left, or record what you do: press keys
        here or on the devices' own front panels, and it becomes one.
      </p>
    {/if}
    <Record />
  </div>
  <MacroSide bind:this={side} />
</div>

<style>
  .macros {
    display: grid;
    grid-template-columns: 216px minmax(0, 1fr) 290px;
    height: 100%;
    min-height: 0;
  }
  /* With large text there is no room for three beside each other: what is chosen stands below. */
  @media (max-width: 950px) {
    .macros {
      grid-template-columns: 180px minmax(0, 1fr);
      height: auto;
      min-height: 100%;
    }
    .macros > :global(aside) {
      grid-column: 2;
    }
  }
  .middle {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
  }
  .none,
  .wrong {
    padding: 1.5rem;
    max-width: 40rem;
    flex: 1;
  }
  .wrong {
    color: var(--finding);
  }
</style>
