<script lang="ts">
  import Parts from "../../parts/form/Parts.svelte";
  import { route } from "../../live/route.svelte";
  import Entries from "./Entries.svelte";
  import Markers from "./Markers.svelte";
  import Use from "./Use.svelte";

  /** What was done and what became of it; the markers; how controls were used. */
  const parts = [
    { id: "entries", text: "What was done" },
    { id: "markers", text: "Markers" },
    { id: "use", text: "Use of controls" },
  ] as const;
  type Part = (typeof parts)[number]["id"];
  const part = $derived<Part>(
    route.path === "/journal/markers" ? "markers" : route.path === "/journal/use" ? "use" : "entries",
  );
</script>

<div class="stack">
  <Parts {parts} bind:value={() => part, (to) => route.go(to === "entries" ? "/journal" : `/journal/${to}`)} />
  <div class="fills">
    {#if part === "markers"}<Markers />{:else if part === "use"}<Use />{:else}<Entries />{/if}
  </div>
</div>
