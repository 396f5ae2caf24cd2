<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's player: a deck with its timecode window, a reel bar and transport keys. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("player");
  const v = (a: string) => view.values[a];
  const n = (a: string) => Number(v(a) ?? 0);
  const text = (a: string) => String(v(a) ?? "");
  const marks = $derived(ids(view, /^\/mark\/(\d+)\/name$/).filter((m) => v(`/mark/${m}/gone`) !== 1));
  const clips = $derived(ids(view, /^\/clip\/(\d+)\/name$/));
  const length = $derived(Math.max(1, n("/frame") + n("/remaining")));
  const share = (f: number) => `${Math.min(100, (100 * f) / length)}%`;
</script>

<Front
  dead={view.faults.cut}
  look="--body: repeating-linear-gradient(90deg, #4a3a2c 0 3px, #463728 3px 6px); --ink: #f1e4d4; --key: #d8cbb9; --key-ink: #2c2117; --lit: #fff; --lit-ink: #2c2117; --screen: #120d09; --glow: #cbb397"
>
  <div class="window lcd">
    <span class="tc">{text("/timecode")}</span>
    <span class="side">{text(`/clip/${text("/loaded")}/name`)}<br />{text("/speed")} % · {text("/left")} left</span>
  </div>
  <div class="reel" aria-hidden="true">
    {#if n("/in") >= 0}<i class="mark" style:left={share(n("/in"))}></i>{/if}
    {#if n("/out") >= 0}<i class="mark out" style:left={share(n("/out"))}></i>{/if}
    <i class="head" style:left={share(n("/frame"))}></i>
  </div>
  <div class="transport keys">
    <button aria-label="Back one second" onclick={() => operate("/jog-seconds", -1)}>−1 s</button>
    <button aria-label="Back one frame" onclick={() => operate("/jog", -1)}>−1 f</button>
    <button
      class="play"
      aria-pressed={v("/play") === 1}
      data-front="play"
      onclick={() => operate(v("/play") === 1 ? "/pause" : "/play")}>{v("/play") === 1 ? "pause" : "play"}</button
    >
    <button aria-label="On one frame" onclick={() => operate("/jog", 1)}>+1 f</button>
    <button aria-label="On one second" onclick={() => operate("/jog-seconds", 1)}>+1 s</button>
  </div>
  <div class="keys">
    <button aria-pressed={n("/in") >= 0} onclick={() => operate("/in")}>in</button>
    <button aria-pressed={n("/out") >= 0} onclick={() => operate("/out")}>out</button>
    <button onclick={() => operate("/reset-in")}>reset in</button>
    <button onclick={() => operate("/reset-out")}>reset out</button>
    {#each [25, 50, 100] as s (s)}
      <button aria-pressed={v("/speed") === s} onclick={() => operate("/speed", s)}>{s} %</button>
    {/each}
  </div>
  <div class="keys">
    {#each clips as c (c)}
      <button aria-pressed={text("/loaded") === c} onclick={() => operate("/loaded", Number(c))}
        >{text(`/clip/${c}/name`)}</button
      >
    {/each}
    <button onclick={() => operate("/countdown", "5:00")}>5:00 countdown</button>
  </div>
  <div class="keys">
    <button data-front="mark" onclick={() => operate("/mark/add", `Clip ${marks.length + 1}`)}>mark the clip</button>
    {#each marks as m (m)}
      <button aria-pressed={text("/mark/at") === m && v("/play") === 1} onclick={() => operate("/mark/play", Number(m))}
        >{text(`/mark/${m}/name`)}</button
      >
    {/each}
    {#if marks.length > 0}<button onclick={() => operate("/mark/all")}>all, with a {text("/with")}</button>{/if}
  </div>
</Front>

<style>
  .window {
    display: flex;
    justify-content: space-between;
    align-items: center;
  }
  .tc {
    font-size: 1.6rem;
    color: #ffd9a0;
  }
  .side {
    text-align: right;
  }
  .reel {
    position: relative;
    height: 12px;
    background: #241a12;
    border-radius: 6px;
  }
  .reel i {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 3px;
    background: #ffd9a0;
  }
  .reel .mark {
    background: #fff;
    border-left: 6px solid #fff8;
  }
  .reel .out {
    border-left: 0;
    border-right: 6px solid #fff8;
  }
  .transport button {
    flex: 1;
    padding: 0.6rem 0.2rem;
  }
  .transport .play {
    flex: 2;
  }
</style>
