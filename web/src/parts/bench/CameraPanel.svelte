<script lang="ts">
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's camera head, seen from the side, with its remote. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("camera");
  const v = (a: string) => view.values[a];
  const text = (a: string) => String(v(a) ?? "");
  const presets = $derived(ids(view, /^\/preset\/(\d+)\/name$/));
  const angle = $derived((Number(v("/at")) - 2.5) * 26);
</script>

<div class="remote" class:dead={view.faults.cut}>
  <svg viewBox="0 0 120 110" role="img" aria-label="The head, {v('/moving') === 1 ? 'moving' : 'standing'}">
    <rect x="34" y="92" width="52" height="10" rx="3" />
    <rect x="54" y="66" width="12" height="28" />
    <g style:transform="rotate({angle}deg)" class:moving={v("/moving") === 1}>
      <rect x="34" y="36" width="48" height="32" rx="8" class="body" />
      <rect x="80" y="43" width="18" height="18" rx="3" />
      <circle cx="97" cy="52" r="7" class="lens" style:fill-opacity={0.2 + Number(v("/brightness")) / 125} />
    </g>
  </svg>
  <div class="keys">
    <div class="presets">
      {#each presets as p (p)}
        <button
          aria-pressed={v("/at") === Number(p)}
          data-front="preset/{p}"
          onclick={() => operate("/goto", Number(p))}><b>{p}</b> {text(`/preset/${p}/name`)}</button
        >
      {/each}
    </div>
    <p class="lcd">
      {v("/moving") === 1 ? "moving …" : v("/at") === 0 ? "stopped" : `at ${text(`/preset/${text("/at")}/name`)}`}
    </p>
    <label
      >brightness {text("/brightness")} %
      <input
        type="range"
        min="0"
        max="100"
        value={Number(v("/brightness"))}
        oninput={(e) => operate("/brightness", Number(e.currentTarget.value))}
      /></label
    >
    <label
      >exposure
      <select value={text("/exposure")} onchange={(e) => operate("/exposure", e.currentTarget.value)}>
        {#each ["auto", "1/25", "1/50", "1/100", "1/200"] as o (o)}<option>{o}</option>{/each}
      </select></label
    >
    <button onclick={() => operate("/stop")}>stop the head</button>
  </div>
</div>

<style>
  .remote {
    margin: 0 1rem;
    padding: 1rem;
    display: grid;
    grid-template-columns: 150px 1fr;
    gap: 1rem;
    border-radius: 10px;
    background: #d9d4d6;
    color: #2a2426;
    font-size: 0.75rem;
  }
  .dead {
    filter: grayscale(1) brightness(0.5);
  }
  svg {
    width: 100%;
    align-self: center;
  }
  rect {
    fill: #6d6467;
  }
  .body {
    fill: #4b4447;
  }
  .lens {
    fill: #fff4d8;
    stroke: #2a2426;
  }
  g {
    transform-origin: 60px 66px;
    transition: transform 1.8s ease-in-out;
  }
  .keys {
    display: grid;
    gap: 0.5rem;
    align-content: start;
  }
  .presets {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0.3rem;
  }
  button {
    border: 1px solid #8f8689;
    border-radius: 6px;
    background: #f1eeef;
    font: inherit;
    color: inherit;
    padding: 0.35rem 0.4rem;
    cursor: pointer;
    text-align: left;
  }
  button[aria-pressed="true"] {
    background: #4b4447;
    color: #fff;
  }
  .lcd {
    margin: 0;
    font-family: var(--mono);
    background: #2a2426;
    color: #f3dfe8;
    padding: 0.3rem 0.5rem;
    border-radius: 3px;
  }
  input,
  select {
    width: 100%;
    accent-color: #4b4447;
    font: inherit;
  }
</style>
