<script lang="ts">
  import Parts from "../../parts/form/Parts.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import ShowList from "./ShowList.svelte";

  /** The shows of the data folder: which there are, and which is open. */
  let { onclose }: { onclose: () => void } = $props();

  const parts = [{ id: "shows", text: "Shows" }] as const;
  let part = $state<(typeof parts)[number]["id"]>("shows");
</script>

<SideSheet title="Shows" {onclose}>
  {#if parts.length > 1}<Parts {parts} bind:value={part} />{/if}
  {#if part === "shows"}<ShowList {onclose} />{/if}
</SideSheet>
