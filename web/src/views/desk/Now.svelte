<script lang="ts">
  import { feed } from "../../live/feed.svelte";
  import { haltMacro, running } from "../../live/runs.svelte";
  import { ago, clock } from "../../live/words.svelte";
  import { Button } from "carbon-components-svelte";
  import RunLanes from "./RunLanes.svelte";

  /** What runs, each with its lanes and a stop. */
  $effect(() => {
    feed.follow("desk-now", ["runs"]);
    return () => feed.follow("desk-now", []);
  });
  const runs = $derived(running());
</script>

{#each runs as r (r.id)}
  <article data-run={r.name}>
    <header>
      <strong class="cut">{r.name}</strong>
      <span class="mono">{ago(r.started, clock.now)}</span>
      {#if r.waitsAt}<span class="waits">waits</span>{/if}
      {#if r.queued}<span class="mono">+{r.queued}</span>{/if}
      <Button kind="tertiary" size="small" on:click={() => haltMacro(r.macro)}>Stop</Button>
    </header>
    <RunLanes run={r} />
  </article>
{:else}
  <p class="quiet">Nothing runs.</p>
{/each}

<style>
  article {
    padding: 0.4rem 0.75rem 0.6rem;
    border-top: 1px solid var(--line);
  }
  header {
    display: flex;
    align-items: center;
    gap: 0.75rem;
  }
  strong {
    font-weight: 600;
    font-size: 1.0625rem;
    flex: 1;
  }
  .waits {
    background: var(--armed-ground);
    padding: 0 0.4rem;
    font-size: 0.8125rem;
  }
  p {
    padding: 0.25rem 0.75rem 0.75rem;
    font-size: 0.875rem;
  }
</style>
