<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's music: a turntable, its label, and the lists beside it. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("music");
  const text = (a: string) => String(view.values[a] ?? "");
  const n = (a: string) => Number(view.values[a] ?? 0);
  const is = (a: string) => view.values[a] === true;
  const lists = $derived(ids(view, /^\/list\/(\d+)\/name$/));
  const share = $derived(Math.min(1, n("/position") / Math.max(1, n("/length"))));
</script>

<Front
  dead={view.faults.cut}
  look="--body: #7a5a3a; --ink: #fff4e4; --key: #f2e3cc; --key-ink: #33210f; --lit: #2c4a36; --lit-ink: #fff; --screen: #1c1208; --glow: #f4dcb8"
>
  <div class="deck">
    <svg viewBox="0 0 120 120" role="img" aria-label={is("/playing") ? "The record turns" : "The record stands"}>
      <g class:turns={is("/playing")}>
        <circle cx="60" cy="60" r="54" class="disc" />
        <circle cx="60" cy="60" r="40" class="groove" />
        <circle cx="60" cy="60" r="30" class="groove" />
        <circle cx="60" cy="60" r="17" class="label" />
        <rect x="58" y="46" width="4" height="6" class="spot" />
      </g>
      <path d="M112 12 L{100 - 24 * share} {44 + 12 * share}" class="arm" />
    </svg>
    <div class="side">
      <p class="lcd">{text("/title")}<br />{text("/artist")}</p>
      <div class="keys">
        <button aria-label="Previous piece" onclick={() => operate("/previous")}>‹‹</button>
        <button aria-pressed={is("/playing")} data-front="play" onclick={() => operate("/playing", !is("/playing"))}
          >{is("/playing") ? "pause" : "play"}</button
        >
        <button aria-label="Next piece" data-front="next" onclick={() => operate("/next")}>››</button>
        <button aria-pressed={is("/muted")} onclick={() => operate("/muted", !is("/muted"))}>silent</button>
      </div>
      <label
        >volume {n("/volume")} %
        <input
          type="range"
          min="0"
          max="100"
          value={n("/volume")}
          oninput={(e) => operate("/volume", Number(e.currentTarget.value))}
        /></label
      >
    </div>
  </div>
  <div class="keys">
    {#each lists as l (l)}
      <button aria-pressed={text("/current") === l} data-front="list/{l}" onclick={() => operate("/current", Number(l))}
        >{text(`/list/${l}/name`)}</button
      >
    {/each}
  </div>
</Front>

<style>
  .deck {
    display: grid;
    grid-template-columns: 130px 1fr;
    gap: 0.8rem;
    align-items: center;
  }
  .side {
    display: grid;
    gap: 0.5rem;
  }
  .disc {
    fill: #14110e;
  }
  .groove {
    fill: none;
    stroke: #3a342c;
  }
  .label {
    fill: #a9c4b2;
  }
  .spot {
    fill: #14110e;
  }
  .arm {
    stroke: #d8d2c6;
    stroke-width: 4;
    fill: none;
    stroke-linecap: round;
  }
  .turns {
    transform-origin: 60px 60px;
    animation: turn 1.8s linear infinite;
  }
  @keyframes turn {
    to {
      transform: rotate(1turn);
    }
  }
</style>
