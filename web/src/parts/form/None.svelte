<script lang="ts">
  import { SkeletonText } from "carbon-components-svelte";
  import type { Snippet } from "svelte";

  /** What stands where there is nothing to show: why it cannot be read, that it is on its way, or that there is none. */
  let {
    waits = false,
    problem = "",
    children,
  }: {
    /** Nobody has answered yet. */
    waits?: boolean;
    problem?: string;
    /** That there is none, and what belongs here. */
    children: Snippet;
  } = $props();
</script>

{#if problem}
  <span class="wrong" role="alert">{problem}</span>
{:else if waits}
  <span class="waits" aria-label="Being read" role="status"><SkeletonText paragraph lines={2} width="60%" /></span>
{:else}
  <span class="quiet">{@render children()}</span>
{/if}

<style>
  span {
    display: block;
  }
  /* What comes at once shall not flash. */
  .waits {
    visibility: hidden;
    animation: seen 0s 0.5s forwards;
  }
  @keyframes seen {
    to {
      visibility: visible;
    }
  }
</style>
