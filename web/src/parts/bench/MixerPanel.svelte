<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand } from "./operate";

  /** The front panel of the bench's sound desk: what a hand on the device itself would do. */
  let { view }: { view: FrontPanel } = $props();

  const channels = [1, 2, 3, 4, 5, 6];
  const v = (address: string) => view.values[address];
  const level = (address: string) => (v(address) === "-inf" ? -90 : Number(v(address) ?? -90));

  const operate = hand("mixer");
  const flip = (address: string) => operate(address, v(address) === 1 ? 0 : 1);
</script>

<Front
  dead={view.faults.cut}
  look="--body: #2b2622; --ink: #e9e3da; --key: #1f1b18; --key-ink: #b5aca1; --lit: #f2f0ec; --lit-ink: #1a1714"
>
  <div class="strips">
    {#each channels as c (c)}
      {@const ch = `/channel/${c}`}
      <div class="strip">
        <button class="open" class:lit={v(`${ch}/mute`) === 0} data-front="open/{c}" onclick={() => flip(`${ch}/mute`)}
          >{v(`${ch}/mute`) === 0 ? "open" : "mute"}</button
        >
        <button class="cue" class:lit={v(`${ch}/solo`) === 1} onclick={() => flip(`${ch}/solo`)}>cue</button>
        <input
          type="range"
          min="-90"
          max="10"
          step="0.5"
          value={level(`${ch}/level`)}
          aria-label="Level of {String(v(`${ch}/name`))}"
          oninput={(e) => operate(`${ch}/level`, Number(e.currentTarget.value))}
        />
        <span class="mono">{String(v(`${ch}/level`))}</span>
        <span class="tape">{String(v(`${ch}/name`))}</span>
      </div>
    {/each}
    <div class="strip main">
      <span class="mono">main</span>
      <input
        type="range"
        min="-90"
        max="10"
        step="0.5"
        value={level("/main/level")}
        aria-label="Main level"
        oninput={(e) => operate("/main/level", Number(e.currentTarget.value))}
      />
      <span class="mono">{String(v("/main/level"))}</span>
      <span class="tape">Main</span>
    </div>
  </div>
  <div class="keys">
    {#each [1, 2] as r (r)}
      <button class="open" class:lit={v(`/return/${r}/mute`) === 0} onclick={() => flip(`/return/${r}/mute`)}
        >fx {r}</button
      >
    {/each}
    {#each [1, 2, 3] as t (t)}
      <button class="cue" class:lit={v(`/track/${t}/play`) === 1} onclick={() => flip(`/track/${t}/play`)}
        >track {t}</button
      >
    {/each}
    {#each [1, 2, 3] as s (s)}
      <button
        class="cue"
        class:lit={v("/scene/at") === s}
        data-front="scene/{s}"
        onclick={() => operate("/scene/run", s)}>{String(v(`/scene/${s}/name`))}</button
      >
    {/each}
    <span class="clients">{view.clients} subscribed</span>
  </div>
</Front>

<style>
  .strip {
    background: #37312b;
    padding: 8px 3px;
    border-radius: 3px;
  }
  .main {
    background: #453a31;
  }
  .cue.lit {
    background: #d9c98f;
  }
  input {
    writing-mode: vertical-lr;
    direction: rtl;
    height: 130px;
  }
  .clients {
    margin-left: auto;
    color: #b5aca1;
  }
</style>
