<script lang="ts">
  import Parts from "../../parts/form/Parts.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import ArchivePart from "./ArchivePart.svelte";
  import BackupPart from "./BackupPart.svelte";
  import ShowList from "./ShowList.svelte";
  import VersionList from "./VersionList.svelte";

  /** The shows of the data folder: which there are, and which is open. */
  let { part = $bindable(), onclose }: { part: "" | (typeof parts)[number]["id"]; onclose: () => void } = $props();

  const parts = [
    { id: "shows", text: "Shows" },
    { id: "versions", text: "Versions" },
    { id: "archive", text: "Archive" },
    { id: "copies", text: "Copies" },
  ] as const;
</script>

<SideSheet title="Shows" {onclose}>
  <Parts {parts} bind:value={() => part || "shows", (to) => (part = to)} />
  {#if part === "shows"}<ShowList {onclose} />{:else if part === "versions"}<VersionList
    />{:else if part === "copies"}<BackupPart />{:else}<ArchivePart onadded={() => (part = "shows")} />{/if}
</SideSheet>
