<script lang="ts">
  import type { Findings } from "../api/client";
  import { feed } from "../live/feed.svelte";
  import { route } from "../live/route.svelte";

  /** How much was found in the show; a click leads to it. */
  const found = $derived(feed.values.get("findings") as Findings | undefined);
</script>

{#if found && found.total > 0}
  <button
    id="findings"
    class:stops={found.stops > 0}
    onclick={() => route.go("/preflight")}
    title={found.stops > 0
      ? `${found.stops} of ${found.total} findings stop the show. A click shows them in Preflight.`
      : "What was found before air. A click shows it in Preflight."}
    ><span class="n">{found.total}</span>
    <span class="word">{found.total === 1 ? "finding" : "findings"}</span></button
  >
{/if}

<style>
  button {
    display: flex;
    gap: 0.35rem;
    align-items: center;
    color: var(--finding);
    padding: 0 0.8rem;
    white-space: nowrap;
  }
  button:hover {
    background: var(--hover);
  }
  .n {
    font-weight: 600;
  }
  @media (max-width: 700px) {
    button {
      padding: 0 0.2rem;
    }
    .word {
      display: none;
    }
  }
  .stops .n {
    background: var(--finding);
    color: var(--on-alarm);
    padding: 0 0.4rem;
    border-radius: 8px;
  }
</style>
