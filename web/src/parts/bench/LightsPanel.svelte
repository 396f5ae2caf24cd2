<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's lights: the lamps as they shine, and a wall plate to work them. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("lights");
  const v = (a: string) => view.values[a];
  const text = (a: string) => String(v(a) ?? "");
  const lamps = $derived(ids(view, /^\/lamp\/(\d+)\/name$/));

  /** Warm to cold, as an eye would see it. */
  function shine(l: string): string {
    const cold = (Number(v(`/lamp/${l}/temperature`)) - 2700) / 3800;
    const name = text(`/lamp/${l}/name`);
    const saturation = Number(v(`/lamp/${l}/saturation`));
    if (saturation > 0) return `hsl(${text(`/lamp/${l}/hue`)} ${saturation}% ${78 - 0.28 * saturation}%)`;
    if (name.startsWith("Red")) return "#d8473a";
    return `rgb(255, ${Math.round(196 + 50 * cold)}, ${Math.round(128 + 127 * cold)})`;
  }
</script>

<Front
  dead={view.faults.cut}
  look="--body: #23201c; --ink: #e6dccb; --key: #2e2a24; --lit: #e6c98f; --lit-ink: #23201c"
>
  <div class="strips">
    {#each lamps as l (l)}
      {@const on = v(`/lamp/${l}/on`) === true}
      <div class="strip">
        <button
          class="bulb"
          aria-pressed={on}
          aria-label="{text(`/lamp/${l}/name`)}: {on ? 'on' : 'off'}"
          data-front="lamp/{l}"
          style:--shine={shine(l)}
          style:--strength={on ? Number(v(`/lamp/${l}/brightness`)) / 100 : 0}
          onclick={() => operate(`/lamp/${l}/on`, !on)}
        ></button>
        <span class="name"
          >{text(`/lamp/${l}/name`)}{v(`/lamp/${l}/pattern`) === "none" ? "" : `, ${text(`/lamp/${l}/pattern`)}`}</span
        >
        <label
          >{text(`/lamp/${l}/brightness`)} %
          <input
            type="range"
            min="0"
            max="100"
            value={Number(v(`/lamp/${l}/brightness`))}
            oninput={(e) => operate(`/lamp/${l}/brightness`, Number(e.currentTarget.value))}
          /></label
        >
        <label
          >{text(`/lamp/${l}/temperature`)} K
          <input
            type="range"
            min="2700"
            max="6500"
            step="100"
            value={Number(v(`/lamp/${l}/temperature`))}
            oninput={(e) => operate(`/lamp/${l}/temperature`, Number(e.currentTarget.value))}
          /></label
        >
        <label
          >hue {text(`/lamp/${l}/hue`)}°
          <input
            type="range"
            min="0"
            max="359"
            value={Number(v(`/lamp/${l}/hue`))}
            oninput={(e) => {
              void operate(`/lamp/${l}/hue`, Number(e.currentTarget.value));
              void operate(`/lamp/${l}/saturation`, 100);
            }}
          /></label
        >
      </div>
    {/each}
  </div>
</Front>

<style>
  .strip .bulb {
    width: 52px;
    height: 52px;
    border-radius: 50%;
    border: 2px solid #5c5245;
    background: color-mix(in srgb, var(--shine) calc(var(--strength) * 100%), #2e2a24);
    box-shadow: 0 0 calc(var(--strength) * 34px) color-mix(in srgb, var(--shine) 70%, transparent);
  }
  .name {
    min-height: 2.2em;
  }
  label {
    width: 100%;
  }
</style>
