<script lang="ts">
  import type { Controller } from "../../api/client";
  import SmallPlate from "../../parts/SmallPlate.svelte";

  /** A controller in small: it fills as its controls are touched. */
  let { controller, touched }: { controller: Controller; touched: string[] } = $props();

  const count = $derived(`${touched.length} of ${controller.controls.length}`);
</script>

<div data-touched={controller.slug}>
  <SmallPlate
    {controller}
    cell={Math.min(14, 180 / controller.width)}
    label="{count} controls touched"
    caption={count}
    fill={(c) => (touched.includes(c.id) ? "var(--select)" : "none")}
  />
</div>
