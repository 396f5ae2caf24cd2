<script lang="ts">
  import type { Snippet } from "svelte";
  import { Button } from "carbon-components-svelte";
  import Launch from "carbon-icons-svelte/lib/Launch.svelte";
  import { desk, titles, type PartName } from "./desk.svelte";

  /** A part of the Desk with its name, and a way into a window of its own. */
  let { part, children }: { part: PartName; children: Snippet } = $props();
</script>

<section
  class="part"
  data-part={part}
  data-help="desk/{titles[part].toLowerCase().replace(' ', '-')}"
  aria-label={titles[part]}
>
  <header class="between">
    <h2>{titles[part]}</h2>
    <Button
      kind="ghost"
      size="small"
      icon={Launch}
      tooltipPosition="left"
      iconDescription="{titles[part]} in a window of its own"
      on:click={() => desk.open(part)}
    />
  </header>
  {#if desk.away(part)}
    <p class="quiet">In a window of its own. It comes back here when that is closed or hidden.</p>
  {:else}
    <!-- It scrolls where it has no room, and so can have the focus. -->
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="fills" tabindex="0" role="group" aria-label={titles[part]}>{@render children()}</div>
  {/if}
</section>

<style>
  .part {
    background: var(--plate);
    border: 1px solid var(--line);
    border-radius: 6px;
    min-width: 0;
    min-height: 0;
    display: flex;
    flex-direction: column;
  }
  header {
    padding: 0.25rem 0.4rem 0.25rem 0.75rem;
    flex: none;
  }
  h2 {
    font-size: 0.8125rem;
    font-weight: 400;
    color: var(--quiet);
  }
  p {
    padding: 0.25rem 0.75rem 0.75rem;
    font-size: 0.875rem;
  }
</style>
