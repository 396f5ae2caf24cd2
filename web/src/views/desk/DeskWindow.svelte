<script lang="ts">
  import { feed } from "../../live/feed.svelte";
  import HaltButton from "../../parts/HaltButton.svelte";
  import NoticeList from "../../parts/NoticeList.svelte";
  import { desk, titles, type PartName } from "./desk.svelte";
  import OnePart from "./OnePart.svelte";

  /** One part of the Desk in a window of its own, on another monitor. */
  let { part }: { part: PartName } = $props();

  void desk.load();
  $effect(() => desk.live(part));
  $effect(() => {
    document.title = `${titles[part]} · Synaptor`;
  });
</script>

<main data-window={part} class="stack">
  <header class="between">
    <h1>{titles[part]}</h1>
    <HaltButton />
  </header>
  {#if !feed.connected}<p role="alert" class="alarm-line">
      Not connected to Synaptor. What is shown may be old. Trying again …
    </p>{/if}
  <OnePart {part} />
  <NoticeList />
</main>

<style>
  main {
    overflow: auto;
    font-size: 1.125rem;
    position: relative;
  }
  header {
    height: 48px;
    flex: none;
    background: var(--bar);
    border-bottom: 1px solid var(--line);
  }
  h1 {
    font-size: 1rem;
    padding: 0 1rem;
  }
</style>
