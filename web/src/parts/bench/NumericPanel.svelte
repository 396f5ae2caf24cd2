<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand } from "./operate";

  /** The bench's keyboard: a numeric block, the keys F13 to F24 and two modifiers, which stay down where they are clicked. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("numeric");
  const block = [
    ["KEY_KP7", "7"],
    ["KEY_KP8", "8"],
    ["KEY_KP9", "9"],
    ["KEY_KPMINUS", "−"],
    ["KEY_KP4", "4"],
    ["KEY_KP5", "5"],
    ["KEY_KP6", "6"],
    ["KEY_KPPLUS", "+"],
    ["KEY_KP1", "1"],
    ["KEY_KP2", "2"],
    ["KEY_KP3", "3"],
    ["KEY_KPENTER", "⏎"],
    ["KEY_KP0", "0"],
    ["KEY_KPDOT", "."],
    ["KEY_KPSLASH", "/"],
    ["KEY_KPASTERISK", "*"],
  ] as const;
  const functions = Array.from({ length: 12 }, (_, i) => [`KEY_F${13 + i}`, `F${13 + i}`] as const);
  const modifiers = [
    ["KEY_LEFTSHIFT", "Shift"],
    ["KEY_LEFTCTRL", "Ctrl"],
  ] as const;
  let held = $state("");
  const letGo = () => {
    if (held) void operate(`/${held}`, "up");
    held = "";
  };
</script>

<svelte:window onpointerup={letGo} onpointercancel={letGo} />

<Front
  dead={view.faults.cut}
  look="--body: #d9d4c8; --ink: #33302a; --key: #f4f1ea; --key-ink: #2a2722; --lit: #8f8a7d; --lit-ink: #fff"
>
  <div class="functions">{@render keys(functions)}</div>
  <div class="block">{@render keys(block)}</div>
  <div class="keys">
    {#each modifiers as [code, label] (code)}
      <button
        data-front={code}
        aria-pressed={view.values[`/${code}`] === true}
        onclick={() => operate(`/${code}`, view.values[`/${code}`] === true ? "up" : "down")}>{label}</button
      >
    {/each}
    <button data-front="KEY_A" onclick={() => operate("/KEY_A", "press")}>A</button>
    <span>{view.values["/taken"] === true ? "Taken: only Synaptor hears it." : "Other programs hear it, too."}</span>
  </div>
</Front>

{#snippet keys(all: readonly (readonly [string, string])[])}
  {#each all as [code, label] (code)}
    <button
      data-front={code}
      aria-label={code}
      class:lit={view.values[`/${code}`] === true}
      onpointerdown={() => ((held = code), void operate(`/${code}`, "down"))}
      onkeydown={(e) => (e.key === "Enter" || e.key === " ") && !e.repeat && operate(`/${code}`, "press")}
      >{label}</button
    >
  {/each}
{/snippet}

<style>
  .functions {
    display: grid;
    grid-template-columns: repeat(6, 1fr);
    gap: 0.25rem;
  }
  .block {
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 0.3rem;
  }
  .block button {
    height: 2.4rem;
    touch-action: none;
  }
</style>
