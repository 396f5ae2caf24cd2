<script lang="ts">
  import type { Snippet } from "svelte";
  import type { Control, Controller } from "../api/client";

  /** A controller in small, with a shape for each of its controls that the owner draws into. */
  let {
    controller,
    cell,
    label,
    fill,
    inside,
    caption,
  }: {
    controller: Controller;
    /** The side of a key, in CSS pixels. */
    cell: number;
    /** What it says, for who does not see it. */
    label: string;
    fill: (c: Control) => string;
    inside?: Snippet<[Control]>;
    caption: string;
  } = $props();
</script>

<figure>
  <svg
    width={controller.width * cell}
    height={controller.height * cell}
    viewBox="0 0 {controller.width} {controller.height}"
    role="img"
    aria-label="{controller.name}: {label}"
  >
    {#each controller.controls as c (c.id)}
      <rect
        x={c.x + 0.06}
        y={c.y + 0.06}
        width={c.width - 0.12}
        height={c.height - 0.12}
        rx={c.kind === "dial" ? 0.5 : 0.12}
        style:fill={fill(c)}
      />
      {@render inside?.(c)}
    {/each}
  </svg>
  <figcaption>{controller.name} <span class="quiet">{caption}</span></figcaption>
</figure>

<style>
  rect {
    stroke: var(--edge);
    stroke-width: 0.04;
  }
  figcaption {
    font-size: 0.75rem;
  }
</style>
