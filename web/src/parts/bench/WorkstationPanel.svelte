<script lang="ts">
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's simulated computer: its screen, its sounds and what was typed. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("workstation");
  const v = (a: string) => view.values[a];
  const text = (a: string) => String(v(a) ?? "");
  const apps = $derived(ids(view, /^\/app\/(\d+)\/name$/));
  const sounds = $derived(ids(view, /^\/sound\/(\d+)\/name$/));
</script>

<div class="screen" class:dead={view.faults.cut}>
  <div class="desktop">
    {#each apps.filter((a) => v(`/app/${a}/running`) === 1) as a, i (a)}
      <div
        class="app"
        class:front={text("/front") === text(`/app/${a}/name`)}
        style:left="{6 + i * 22}%"
        style:top="{10 + i * 12}%"
      >
        <b>{text(`/app/${a}/name`)}</b>
      </div>
    {/each}
    <p class="typed">
      {#if text("/last/typed")}<span>typed: {text("/last/typed")}</span>{/if}
      {#if text("/last/hotkey")}<span>keys: {text("/last/hotkey")}</span>{/if}
      {#if text("/last/link")}<span>link: {text("/last/link")}</span>{/if}
    </p>
  </div>
  <div class="dock">
    {#each apps as a (a)}
      {@const runs = v(`/app/${a}/running`) === 1}
      <button aria-pressed={runs} data-front="app/{a}" onclick={() => operate(`/app/${a}/running`, runs ? 0 : 1)}
        >{text(`/app/${a}/name`)}</button
      >
    {/each}
    <label
      >volume {text("/volume")} %
      <input
        type="range"
        min="0"
        max="100"
        value={Number(v("/volume"))}
        oninput={(e) => operate("/volume", Number(e.currentTarget.value))}
      /></label
    >
  </div>
  <div class="sounds">
    {#each sounds as s (s)}
      {@const plays = v(`/sound/${s}/playing`) === 1}
      <button aria-pressed={plays} onclick={() => operate(`/sound/${s}/playing`, plays ? 0 : 1)}
        >{text(`/sound/${s}/name`)}<small
          >{plays
            ? v(`/sound/${s}/loop`) === 1
              ? "round and round"
              : `${text(`/sound/${s}/remaining`)} s`
            : " "}</small
        ></button
      >
    {/each}
  </div>
  <p class="load">processor {text("/processor")} % · memory {text("/memory")} % · disk {text("/disk")} GB free</p>
</div>

<style>
  .screen {
    margin: 0 1rem;
    padding: 0.7rem;
    background: #c4c8cc;
    border-radius: 8px;
    color: #20252a;
    font-size: 0.75rem;
    display: grid;
    gap: 0.5rem;
  }
  .dead {
    filter: brightness(0.4);
  }
  .desktop {
    position: relative;
    height: 150px;
    background: linear-gradient(160deg, #52616e, #2f3a44);
    overflow: hidden;
    border-radius: 3px;
  }
  .app {
    position: absolute;
    width: 46%;
    height: 58%;
    background: #eef0f2;
    border: 1px solid #20252a;
    box-shadow: 0 2px 8px #0006;
  }
  .app b {
    display: block;
    background: #aab2b9;
    padding: 0.1rem 0.4rem;
    font-weight: 400;
  }
  .front {
    z-index: 1;
  }
  .front b {
    background: #20252a;
    color: #fff;
  }
  .typed {
    position: absolute;
    z-index: 2;
    left: 0.5rem;
    right: 0.5rem;
    bottom: 0.3rem;
    margin: 0;
    display: grid;
    color: #fff;
    font-family: var(--mono);
    font-size: 0.6875rem;
    overflow-wrap: anywhere;
  }
  .dock,
  .sounds {
    display: flex;
    gap: 0.3rem;
    flex-wrap: wrap;
    align-items: end;
  }
  .dock label {
    flex: 1;
    min-width: 5rem;
  }
  input {
    width: 100%;
    accent-color: #20252a;
  }
  button {
    border: 1px solid #8b939a;
    border-radius: 4px;
    background: #eef0f2;
    color: inherit;
    font: inherit;
    padding: 0.25rem 0.5rem;
    cursor: pointer;
  }
  button[aria-pressed="true"] {
    background: #20252a;
    color: #fff;
  }
  small {
    display: block;
    font-size: 0.625rem;
  }
  .load {
    margin: 0;
    font-size: 0.6875rem;
  }
</style>
