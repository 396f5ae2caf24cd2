<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's prompter: its glass with the words at the mark, and a wheel for the speed. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("prompter");
  const text = (a: string) => String(view.values[a] ?? "");
  const n = (a: string) => Number(view.values[a] ?? 0);
  const scripts = $derived(ids(view, /^\/script\/(\d+)\/name$/));
  const runs = $derived(n("/running") === 1);
</script>

<Front
  dead={view.faults.cut}
  look="--body: #b9b0a2; --ink: #241f18; --key: #ded7cb; --lit: #2d261c; --lit-ink: #fff; --screen: #0a0a0a; --glow: #fff"
>
  <div class="glass lcd" class:mirror={n("/mirror") === 1}>
    <span class="mark" aria-hidden="true">▸</span>
    <p>{text("/text") || "nothing is loaded"}</p>
  </div>
  <p>
    {n("/lines") ? `line ${n("/line")} of ${n("/lines")}` : "no script"} · {runs
      ? `rolls, ${n("/speed")} lines a minute`
      : "stands"}
  </p>
  <div class="keys">
    <button aria-pressed={runs} data-front="run" onclick={() => operate("/running", runs ? 0 : 1)}
      >{runs ? "pause" : "run"}</button
    >
    <button onclick={() => operate("/back-line")}>back a line</button>
    <button onclick={() => operate("/back-page")}>back a page</button>
    <button onclick={() => operate("/line", 1)}>top</button>
    <button aria-pressed={n("/mirror") === 1} onclick={() => operate("/mirror", n("/mirror") === 1 ? 0 : 1)}
      >mirror</button
    >
  </div>
  <label
    >speed
    <input
      type="range"
      min="5"
      max="120"
      value={n("/speed")}
      oninput={(e) => operate("/speed", Number(e.currentTarget.value))}
    /></label
  >
  {#each scripts as s (s)}
    {@const gone = n(`/script/${s}/gone`) === 1}
    <div class="keys">
      <button disabled={gone} aria-pressed={text("/loaded") === s} onclick={() => operate("/loaded", Number(s))}
        >{text(`/script/${s}/name`)}</button
      >
      <button data-front="remove/{s}" onclick={() => operate(`/script/${s}/gone`, gone ? 0 : 1)}
        >{gone ? "put back" : "remove"}</button
      >
    </div>
  {/each}
</Front>

<style>
  .glass {
    position: relative;
    min-height: 92px;
    display: grid;
    align-items: center;
    padding: 0.6rem 1rem 0.6rem 2rem;
    font-family: var(--sans);
    font-size: 1.1rem;
  }
  .mirror p {
    transform: scaleX(-1);
  }
  .mark {
    position: absolute;
    left: 0.6rem;
    color: #ffb000;
  }
</style>
