<script lang="ts">
  import type { Controller } from "../../api/client";

  /** A controller in small: it fills as its controls are touched. */
  let { controller, touched }: { controller: Controller; touched: string[] } = $props();

  const cell = $derived(Math.min(14, 180 / controller.width));
  const all = $derived(controller.controls.length);
</script>

<figure data-touched={controller.slug}>
  <svg
    width={controller.width * cell}
    height={controller.height * cell}
    viewBox="0 0 {controller.width} {controller.height}"
    role="img"
    aria-label="{controller.name}: {touched.length} of {all} controls touched"
  >
    {#each controller.controls as c (c.id)}
      <rect
        x={c.x + 0.08}
        y={c.y + 0.08}
        width={c.width - 0.16}
        height={c.height - 0.16}
        rx={c.kind === "dial" ? 0.5 : 0.12}
        class:on={touched.includes(c.id)}
      />
    {/each}
  </svg>
  <figcaption>{controller.name} <span class="quiet">{touched.length} of {all}</span></figcaption>
</figure>

<style>
  rect {
    fill: none;
    stroke: var(--quiet);
    stroke-width: 0.06;
  }
  .on {
    fill: var(--select);
    stroke: var(--select);
  }
  figcaption {
    font-size: 0.75rem;
  }
</style>
