<script lang="ts">
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

<div class="desk" class:dead={view.faults.cut}>
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
        <span class="db">{String(v(`${ch}/level`))}</span>
        <span class="tape">{String(v(`${ch}/name`))}</span>
      </div>
    {/each}
    <div class="strip main">
      <span class="db">main</span>
      <input
        type="range"
        min="-90"
        max="10"
        step="0.5"
        value={level("/main/level")}
        aria-label="Main level"
        oninput={(e) => operate("/main/level", Number(e.currentTarget.value))}
      />
      <span class="db">{String(v("/main/level"))}</span>
      <span class="tape">Main</span>
    </div>
  </div>
  <div class="lower">
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
    <span class="clients">{view.clients} subscribed</span>
  </div>
</div>

<style>
  .desk {
    margin: 0 1rem;
    padding: 0.9rem;
    border-radius: 4px;
    background: #2b2622;
    border: 1px solid #4a423b;
    color: #e9e3da;
    font-size: 0.75rem;
  }
  .dead {
    filter: brightness(0.55);
  }
  .strips {
    display: grid;
    grid-template-columns: repeat(7, 1fr);
    gap: 4px;
  }
  .strip {
    display: grid;
    justify-items: center;
    gap: 6px;
    background: #37312b;
    padding: 8px 3px;
    border-radius: 3px;
    min-width: 0;
  }
  .main {
    background: #453a31;
  }
  button {
    border: 0;
    border-radius: 10px;
    background: #1f1b18;
    color: #b5aca1;
    font: inherit;
    font-size: 0.6875rem;
    padding: 2px 7px;
    cursor: pointer;
  }
  .open.lit {
    background: #f2f0ec;
    color: #1a1714;
  }
  .cue.lit {
    background: #d9c98f;
    color: #1a1714;
  }
  input {
    writing-mode: vertical-lr;
    direction: rtl;
    height: 130px;
    accent-color: #e9e3da;
  }
  .db {
    font-family: var(--mono);
    font-size: 0.6875rem;
  }
  .tape {
    background: #efe9d8;
    color: #2a241d;
    width: 100%;
    text-align: center;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    padding: 1px 2px;
    font-size: 0.6875rem;
  }
  .lower {
    display: flex;
    gap: 6px;
    margin-top: 0.7rem;
    align-items: center;
  }
  .clients {
    margin-left: auto;
    color: #b5aca1;
  }
</style>
