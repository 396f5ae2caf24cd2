<script lang="ts">
  import { onMount } from "svelte";
  import { api } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import { feed } from "../../live/feed.svelte";
  import { hardware } from "../../live/hardware.svelte";
  import { said } from "../../live/show.svelte";
  import type { Desk } from "./desk.svelte";

  /** While it is there, whatever is touched on hardware is selected on the desk, and does nothing else. */
  let { desk, onclose }: { desk: Desk; onclose: () => void } = $props();

  onMount(() => {
    const quiet = async (on: boolean) => said(await api.PUT("/api/v1/quiet", { body: { on } }));
    const before = feed.values.get("quiet") === true;
    void quiet(true);
    feed.follow("touch selects", ["hardware"]);
    return () => {
      feed.follow("touch selects", []);
      if (!before) void quiet(false);
    };
  });
  const last = $derived(
    hardware.rows
      .filter((h) => h.last?.to)
      .sort((a, b) => (a.last?.at ?? "").localeCompare(b.last?.at ?? ""))
      .at(-1),
  );
  const began = new Date().toISOString();
  let seen = began;
  $effect(() => {
    const t = last?.last;
    const controller = desk.controllers.find((c) => c.id === last?.controller);
    if (!t || !controller || t.at <= seen) return;
    seen = t.at;
    desk.choose(controller, t.to);
  });
</script>

<span class="touch" role="status">
  {feed.values.get("quiet") === true ? "Touch selects: hardware does nothing else." : "Hardware becomes quiet …"}
  <Act data-tool="touch-ends" onclick={onclose}>End</Act>
</span>

<style>
  .touch {
    display: inline-flex;
    align-items: center;
    gap: 0.5rem;
    padding-left: 0.5rem;
    border-left: 3px solid var(--select);
  }
</style>
