<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's camera head, seen from the side, with its remote. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("camera");
  const v = (a: string) => view.values[a];
  const text = (a: string) => String(v(a) ?? "");
  const presets = $derived(ids(view, /^\/preset\/(\d+)\/name$/));
  const choices = {
    exposure: ["auto", "1/25", "1/50", "1/100", "1/200"],
    white: ["auto", "daylight", "lamps", "moonlight"],
    focus: ["auto", "near", "far", "held"],
    iris: ["auto", "open", "half", "closed"],
  };
  const angle = $derived((Number(v("/at")) - 2.5) * 26);
</script>

<Front
  dead={view.faults.cut}
  look="--body: #d9d4d6; --ink: #2a2426; --key: #f1eeef; --lit: #4b4447; --lit-ink: #fff; --screen: #2a2426; --glow: #f3dfe8"
>
  <svg viewBox="0 0 120 110" role="img" aria-label="The head, {v('/moving') === 1 ? 'moving' : 'standing'}">
    <rect x="34" y="92" width="52" height="10" rx="3" />
    <rect x="54" y="66" width="12" height="28" />
    <g style:transform="rotate({angle}deg)" class:moving={v("/moving") === 1}>
      <rect x="34" y="36" width="48" height="32" rx="8" class="body" />
      <rect x="80" y="43" width="18" height="18" rx="3" />
      <circle cx="97" cy="52" r="7" class="lens" style:fill-opacity={0.2 + Number(v("/brightness")) / 125} />
    </g>
  </svg>
  <div class="hand">
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
    <div class="presets">
      {#each ["brightness", "contrast", "saturation", "sharpness", "gain"] as k (k)}
        <label
          >{k}
          {text(`/${k}`)} %
          <input
            type="range"
            min="0"
            max="100"
            value={Number(v(`/${k}`))}
            oninput={(e) => operate(`/${k}`, Number(e.currentTarget.value))}
          /></label
        >
      {/each}
      {#each Object.entries(choices) as [k, options] (k)}
        <label
          >{k}
          <select value={text(`/${k}`)} onchange={(e) => operate(`/${k}`, e.currentTarget.value)}>
            {#each options as o (o)}<option>{o}</option>{/each}
          </select></label
        >
      {/each}
    </div>
    <button onclick={() => operate("/stop")}>stop the head</button>
  </div>
</Front>

<style>
  svg {
    width: 100%;
    max-height: 130px;
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
  .hand,
  .presets {
    display: grid;
    gap: 0.5rem;
  }
  .presets {
    grid-template-columns: 1fr 1fr;
    gap: 0.3rem;
  }
  .presets button {
    text-align: left;
  }
  .lcd {
    margin: 0;
  }
</style>
