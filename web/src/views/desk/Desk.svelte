<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Maximize from "carbon-icons-svelte/lib/Maximize.svelte";
  import Settings from "carbon-icons-svelte/lib/Settings.svelte";
  import { feed } from "../../live/feed.svelte";
  import { show } from "../../live/show.svelte";
  import Decisions from "../../parts/Decisions.svelte";
  import Arrange from "./Arrange.svelte";
  import CloseNight from "./CloseNight.svelte";
  import Controllers from "./Controllers.svelte";
  import { desk } from "./desk.svelte";
  import OnePart from "./OnePart.svelte";
  import Part from "./Part.svelte";
  import Status from "./Status.svelte";

  /** For the show: nothing can be edited here, only pressed. */
  let arranging = $state(false);
  let closing = $state(false);

  $effect(() => {
    void [feed.epoch, show.doc?.id];
    void desk.load();
  });
  const at = $derived(desk.now);

  let full = $state(false);
  async function wholeScreen() {
    if (document.fullscreenElement) await document.exitFullscreen();
    else await document.documentElement.requestFullscreen().catch(() => undefined);
  }
</script>

<svelte:document onfullscreenchange={() => (full = !!document.fullscreenElement)} />

<div class="stack">
  <Status />
  <Decisions desk />
  {#if at}
    <div class="plane {at.side}" class:alone={at.parts.length === 0}>
      <Controllers ids={at.controllers} />
      {#if at.parts.length > 0}
        <div class="parts">
          {#each at.parts as p (p)}<Part part={p}><OnePart part={p} /></Part>{/each}
        </div>
      {/if}
    </div>
  {:else}
    <p class="quiet">{desk.problem || "Loading …"}</p>
  {/if}
  <footer>
    <Button kind="ghost" size="small" icon={Settings} id="arrange" on:click={() => (arranging = true)}>Arrange</Button>
    <Button kind="ghost" size="small" icon={Maximize} id="whole-screen" on:click={wholeScreen}
      >{full ? "Leave full screen" : "Full screen"}</Button
    >
    <Button kind="ghost" size="small" id="close-night" on:click={() => (closing = true)}>Close the night …</Button>
  </footer>
  {#if arranging}<Arrange onclose={() => (arranging = false)} />{/if}
  {#if closing}<CloseNight onclose={() => (closing = false)} />{/if}
</div>

<style>
  .plane {
    flex: 1;
    min-height: 0;
    display: grid;
    gap: 0.5rem;
    padding: 0.5rem 0.5rem 0;
    grid-template-columns: minmax(0, 1fr) minmax(300px, 26%);
  }
  .plane.left {
    grid-template-columns: minmax(300px, 26%) minmax(0, 1fr);
  }
  .plane.left .parts {
    order: -1;
  }
  .plane.below {
    grid-template-columns: none;
    grid-template-rows: minmax(0, 1fr) minmax(9rem, 30%);
  }
  .plane.alone {
    grid-template: minmax(0, 1fr) / minmax(0, 1fr);
  }
  .parts {
    display: flex;
    flex-direction: column;
    gap: 0.5rem;
    min-height: 0;
  }
  .parts > :global(*) {
    flex: 0 0 auto;
    max-height: 60%;
  }
  .parts > :global([data-part="presses"]) {
    flex: 1 1 12rem;
  }
  .below .parts {
    flex-direction: row;
  }
  .below .parts > :global(*) {
    flex: 1 1 0;
  }
  footer {
    display: flex;
    padding: 0 0.5rem;
  }
  footer > :global(:last-child) {
    margin-left: auto;
  }
  p {
    padding: 2rem;
  }
</style>
