<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's titles: the picture with its plate, the two fields, and the list. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("titles");
  const text = (a: string) => String(view.values[a] ?? "");
  const shown = $derived(view.values["/shown"] === true);
  const fields = $derived(ids(view, /^\/field\/(\d+)\/name$/));
  const entries = $derived(ids(view, /^\/entry\/(\d+)\/name$/).slice(0, 40));
</script>

<Front
  dead={view.faults.cut}
  look="--body: #ece9df; --ink: #26281c; --key: #fffdf4; --lit: #5c6427; --lit-ink: #fff; --screen: #15181c; --glow: #f0efe6"
>
  <div class="picture" aria-label="The picture, {shown ? 'with' : 'without'} the plate">
    {#if shown}
      <p class="plate" dir="auto"><b>{text("/field/1/text")}</b>{text("/field/2/text")}</p>
    {/if}
  </div>
  <div class="keys">
    <button aria-pressed={shown} data-front="plate" onclick={() => operate("/shown", !shown)}
      >{shown ? "take it off" : "put it on"}{Number(view.values["/left"]) > 0 ? ` (${text("/left")} s)` : ""}</button
    >
    <button onclick={() => operate("/show-for", 8)}>for 8 s</button>
    <button onclick={() => operate("/clear")}>empty</button>
    <button onclick={() => operate("/fill", 200)}>200 entries</button>
  </div>
  {#each fields as f (f)}
    <label
      >{text(`/field/${f}/name`)}
      <input
        dir="auto"
        value={text(`/field/${f}/text`)}
        onchange={(e) => operate(`/field/${f}/text`, e.currentTarget.value)}
      /></label
    >
  {/each}
  <ol>
    {#each entries as e (e)}
      <li>
        <button aria-pressed={text("/at") === e} data-front="entry/{e}" onclick={() => operate("/at", e)} dir="auto"
          ><b>{text(`/entry/${e}/name`)}</b> {text(`/entry/${e}/role`)}</button
        >
      </li>
    {/each}
  </ol>
  {#if Number(view.values["/count"]) > entries.length}
    <p class="quiet">and {Number(view.values["/count"]) - entries.length} more</p>
  {/if}
</Front>

<style>
  .picture {
    position: relative;
    height: 110px;
    background: linear-gradient(#0c1224, #263150 70%, #3a3a44 70%);
    overflow: hidden;
  }
  .plate {
    position: absolute;
    left: 8%;
    bottom: 12%;
    max-width: 84%;
    margin: 0;
    padding: 0.25rem 0.6rem;
    border-left: 4px solid #c9d27a;
    background: #101214d9;
    color: #fff;
    overflow: hidden;
    display: grid;
    max-height: 3.2em;
  }
  ol {
    display: grid;
    gap: 2px;
    max-height: 150px;
    overflow: auto;
  }
  ol button {
    width: 100%;
    text-align: left;
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
  }
</style>
