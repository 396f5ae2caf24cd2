<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand } from "./operate";

  /** The bench's slides, as whoever speaks sees them: the slide, the next one, the notes and the timer. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("slides");
  const text = (a: string) => String(view.values[a] ?? "");
  const n = (a: string) => Number(view.values[a] ?? 0);
  const running = $derived(n("/running") === 1);
  const blank = $derived(n("/blank") === 1);
  const clock = $derived(`${Math.floor(n("/timer") / 60)}:${String(n("/timer") % 60).padStart(2, "0")}`);
  let to = $state("16");
</script>

<Front
  dead={view.faults.cut}
  look="--body: #23303a; --ink: #e4eef4; --key: #38505f; --lit: #d6ecf7; --lit-ink: #16232c; --screen: #10181d; --glow: #cfe7f4"
>
  <div class="room">
    <div class="slide" class:dark={blank || !running}>
      {#if running && !blank}<small>{text("/at")} of {text("/count")}</small><b>{text("/title")}</b>{/if}
      {#if !running}<small>{text("/talk")}</small>{/if}
    </div>
    <div class="desk">
      <p class="lcd">{clock}</p>
      <p><small>Next</small><br />{running ? text("/next") || "the end" : "–"}</p>
      <p><small>Notes</small><br />{text("/notes")}</p>
    </div>
  </div>
  <div class="keys">
    <button aria-pressed={running} data-front="start" onclick={() => operate(running ? "/end" : "/start")}
      >{running ? "end" : "start"}</button
    >
    <button data-front="previous" onclick={() => operate("/previous")}>back</button>
    <button data-front="next" onclick={() => operate("/next")}>on</button>
    <button aria-pressed={blank} onclick={() => operate("/blank", blank ? 0 : 1)}>blank</button>
    <button onclick={() => operate("/timer-reset")}>timer to 0</button>
  </div>
  <form
    class="keys"
    onsubmit={(e) => {
      e.preventDefault();
      void operate("/goto", Number(to));
    }}
  >
    <input aria-label="Number of a slide" bind:value={to} style:width="4rem" />
    <button>to this slide</button>
  </form>
</Front>

<style>
  .room {
    display: grid;
    grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
    align-items: start;
    gap: 0.6rem;
  }
  .slide {
    aspect-ratio: 4 / 3;
    display: grid;
    place-content: center;
    gap: 0.4rem;
    padding: 0.6rem;
    background: #f6f3ea;
    color: #1d2a33;
    text-align: center;
    font-size: 1.05rem;
  }
  .slide.dark {
    background: #07090b;
    color: #9fb0ba;
  }
  .lcd {
    font-size: 1.3rem;
  }
</style>
