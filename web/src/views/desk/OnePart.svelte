<script lang="ts">
  import Clocks from "./Clocks.svelte";
  import Markers from "./Markers.svelte";
  import Now from "./Now.svelte";
  import Presses from "./Presses.svelte";
  import type { PartName } from "./desk.svelte";

  /** What a part of the Desk shows, wherever it stands. */
  let { part }: { part: PartName } = $props();
</script>

{#if part === "clocks"}<Clocks />{:else if part === "now"}<Now />{:else if part === "presses"}<Presses />{:else}<Markers
  />{/if}
