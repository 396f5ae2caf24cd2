<script lang="ts">
  import Parts from "../../parts/form/Parts.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import ShowList from "./ShowList.svelte";
  import VersionList from "./VersionList.svelte";

  /** The shows of the data folder: which there are, and which is open. */
  let { onclose }: { onclose: () => void } = $props();

  const parts = [
    { id: "shows", text: "Shows" },
    { id: "versions", text: "Versions" },
  ] as const;
  let part = $state<(typeof parts)[number]["id"]>("shows");
</script>

<SideSheet title="Shows" {onclose}>
  <Parts {parts} bind:value={part} />
  {#if part === "shows"}<ShowList {onclose} />{:else if part === "versions"}<VersionList />{/if}
</SideSheet>
