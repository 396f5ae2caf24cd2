<script lang="ts">
  import Front from "./Front.svelte";
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

<Front dead={view.faults.cut} look="--body: #c4c8cc; --ink: #20252a; --key: #eef0f2; --lit: #20252a; --lit-ink: #fff">
  <div class="desktop">
    {#each apps.filter((a) => v(`/app/${a}/running`) === 1) as a, i (a)}
      <div
        class="app"
        class:front={text("/front") === text(`/app/${a}/name`)}
        style:left="{6 + i * 22}%"
        style:top="{10 + i * 12}%"
      >
        <b>{text(`/app/${a}/name`)}</b>
        {text(`/screen/${text(`/app/${a}/screen`)}/name`)}
      </div>
    {/each}
    <p class="typed">
      {#if text("/last/typed")}<span>typed: {text("/last/typed")}</span>{/if}
      {#if text("/last/hotkey")}<span>keys: {text("/last/hotkey")}</span>{/if}
      {#if text("/last/capture")}<span>{text("/last/capture")}</span>{/if}
      {#if text("/last/link")}<span>link: {text("/last/link")}</span>{/if}
    </p>
  </div>
  <div class="dock keys">
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
  <div class="keys">
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
  <div class="keys">
    <button
      aria-pressed={v("/asleep") === 1}
      data-front="asleep"
      onclick={() => operate("/asleep", v("/asleep") === 1 ? 0 : 1)}>{v("/asleep") === 1 ? "wake it" : "asleep"}</button
    >
  </div>
  <p class="load">
    {text("/clock")} · processor {text("/processor")} % · memory {text("/memory")} % · disk {text("/disk")} GB free
  </p>
</Front>

<style>
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
  .dock label {
    flex: 1;
    min-width: 5rem;
  }
  small {
    display: block;
  }
  .load {
    margin: 0;
    font-size: 0.6875rem;
  }
</style>
