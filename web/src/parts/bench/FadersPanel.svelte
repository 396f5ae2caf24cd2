<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand } from "./operate";

  /** The bench's faders with motors, dials and pads, as they lie on the desk: what they show came back by MIDI. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("faders");
  const four = [1, 2, 3, 4];
  const pads = [1, 2, 3, 4, 5, 6, 7, 8];
  const number = (a: string) => Number(view.values[a] ?? 0);
  /** What the lamps of the pads look like, by what they are told. */
  const lamps: Record<number, string> = { 3: "#e8e8e8", 5: "#ff4a3d", 9: "#ffb13d", 21: "#4ade5c" };
  let held = $state("");
  const letGo = () => {
    if (held) void operate(held, "up");
    held = "";
  };
</script>

<svelte:window onpointerup={letGo} onpointercancel={letGo} />

<Front dead={view.faults.cut} look="--body: #3a3f45; --ink: #e3e6e9; --key: #1b1e21; --lit: #c9d2da; --lit-ink: #111">
  <div class="strips">
    {#each four as n (n)}
      <div class="strip">
        <div class="dial">
          <button aria-label="Turn dial {n} to the left" onclick={() => operate(`/dial${n}`, -1)}>◂</button>
          <button aria-label="Turn dial {n} to the right" onclick={() => operate(`/dial${n}`, 1)}>▸</button>
        </div>
        <input
          type="range"
          min="0"
          max="1"
          step="0.005"
          aria-label="Fader {n}"
          data-front="fader{n}"
          value={number(`/fader${n}`)}
          onpointerdown={() => operate(`/fader${n}/touch`, "down")}
          onpointerup={() => operate(`/fader${n}/touch`, "up")}
          oninput={(e) => operate(`/fader${n}`, Number(e.currentTarget.value))}
        />
        <small
          >{view.values[`/fader${n}/touched`] === true
            ? "a hand is on it"
            : Math.round(number(`/fader${n}`) * 100)}</small
        >
      </div>
    {/each}
  </div>
  <div class="pads">
    {#each pads as n (n)}
      {@const lamp = number(`/pad${n}/lamp`)}
      <button
        data-front="pad{n}"
        data-lamp={lamp}
        aria-label="Pad {n}, lamp {lamp}"
        style:background={lamps[lamp]}
        onpointerdown={() => ((held = `/pad${n}`), void operate(held, "down"))}
        onkeydown={(e) => (e.key === "Enter" || e.key === " ") && !e.repeat && operate(`/pad${n}`, "press")}
      ></button>
    {/each}
  </div>
  <p>
    <button
      aria-pressed={view.values["/timecode"] === "runs"}
      onclick={() => operate("/timecode", view.values["/timecode"] === "runs" ? "stop" : "run")}>Time code</button
    >
    {view.values["/timecode"]}
  </p>
</Front>

<style>
  input {
    writing-mode: vertical-lr;
    direction: rtl;
    height: 7rem;
    width: auto !important;
  }
  .dial {
    display: flex;
    gap: 2px;
  }
  .pads {
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 0.3rem;
  }
  .pads button {
    height: 2.6rem;
    touch-action: none;
  }
</style>
