<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand } from "./operate";

  /** The bench's foot board: three pedals, each an axis of a game control. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("foot");
  const at = (n: number) => Number(view.values[`/pedal${n}`] ?? 0);
  let held = $state(0);
  const letGo = () => {
    if (held) void operate(`/pedal${held}`, "up");
    held = 0;
  };
</script>

<svelte:window onpointerup={letGo} onpointercancel={letGo} />

<Front
  dead={view.faults.cut}
  look="--body: #2c2622; --ink: #e8dfd6; --key: #57493d; --lit: #c7a98a; --lit-ink: #201a15"
>
  <div class="strips">
    {#each [1, 2, 3] as n (n)}
      <div class="strip">
        <button
          class="pedal"
          data-front="pedal{n}"
          aria-label="Pedal {n}"
          style:transform="rotateX({Math.round(at(n) * 40)}deg)"
          onpointerdown={() => ((held = n), void operate(`/pedal${n}`, "down"))}
          onkeydown={(e) => (e.key === "Enter" || e.key === " ") && !e.repeat && operate(`/pedal${n}`, "press")}
        ></button>
        <input
          type="range"
          min="0"
          max="1"
          step="0.01"
          aria-label="How far pedal {n} is down"
          value={at(n)}
          oninput={(e) => operate(`/pedal${n}`, Number(e.currentTarget.value))}
        />
      </div>
    {/each}
  </div>
</Front>

<style>
  .pedal {
    width: 80%;
    height: 5rem;
    touch-action: none;
    transform-origin: bottom;
  }
</style>
