<script lang="ts">
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** What the streaming software's audience sees, drawn plainly: the sources where they are, comments, films and the look-back. */
  let { view, at }: { view: FrontPanel; at: string } = $props();

  const operate = hand("streaming");
  const v = (a: string) => view.values[a];
  const n = (a: string) => Number(v(a) ?? 0);
  const text = (a: string) => String(v(a) ?? "");
  const sources = $derived(
    ids(view, new RegExp(`^${at}/source/(\\d+)/name$`)).filter((s) => v(`${at}/source/${s}/shown`)),
  );
  const films = $derived(ids(view, /^\/media\/(\d+)\/name$/));
  const texts = $derived(ids(view, /^\/text\/(\d+)\/name$/));
</script>

<div class="picture" aria-label="What the audience sees">
  {#each sources as s (s)}
    {@const p = `${at}/source/${s}`}
    <span
      style:left="{n(`${p}/x`)}%"
      style:top="{n(`${p}/y`)}%"
      style:width="{n(`${p}/size`)}%"
      style:height="{n(`${p}/size`)}%"
      style:rotate="{n(`${p}/turn`)}deg"
      style:clip-path="inset({n(`${p}/top`)}% {n(`${p}/right`)}% {n(`${p}/bottom`)}% {n(`${p}/left`)}%)"
      >{text(`${p}/name`)}</span
    >
  {/each}
  <p>
    {#if v("/lookback/airing") === true}<b>look-back, {text("/lookback/left")} s</b>{/if}
    {#each films.filter((f) => v(`/media/${f}/playing`) === true) as f (f)}
      <b>{text(`/media/${f}/name`)}, {text(`/media/${f}/remaining`)} s</b>
    {/each}
    {#if n("/comment/count") > 0}<b dir="auto">{text("/comment/who")}: {text("/comment/words")}</b>{/if}
  </p>
</div>
<div class="keys">
  <button onclick={() => operate("/take")} data-front="take">take the preview</button>
  <button aria-pressed={v("/virtual/on") === true} onclick={() => operate("/virtual/on", v("/virtual/on") !== true)}
    >second output</button
  >
  {#each films as f (f)}
    <button
      aria-pressed={v(`/media/${f}/playing`) === true}
      onclick={() => operate(`/media/${f}/playing`, v(`/media/${f}/playing`) !== true)}
      >{text(`/media/${f}/name`)}</button
    >
  {/each}
  <button onclick={() => operate("/comments/hide")}>no comments</button>
</div>
{#each texts as t (t)}
  <input
    aria-label="Text {text(`/text/${t}/name`)}"
    dir="auto"
    value={text(`/text/${t}/words`)}
    onchange={(e) => operate(`/text/${t}/words`, e.currentTarget.value)}
  />
{/each}

<style>
  .picture {
    position: relative;
    aspect-ratio: 16 / 6;
    background: #171425;
    color: #fff;
    overflow: hidden;
  }
  span {
    position: absolute;
    translate: -50% -50%;
    padding: 2px 4px;
    box-sizing: border-box;
    background: #8f82c9b0;
    outline: 1px solid #fff;
    overflow: hidden;
  }
  p {
    position: absolute;
    inset: auto 6px 4px;
    display: grid;
  }
</style>
