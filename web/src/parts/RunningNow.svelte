<script lang="ts">
  import { route } from "../live/route.svelte";
  import { haltMacro, running } from "../live/runs.svelte";

  /** What runs now, with how far it is and a stop, on every view. */
  const runs = $derived(running());
</script>

{#each runs as r (r.id)}
  <span class="run" title={r.waitsAt ? "It waits for something" : ""}>
    <button class="name" onclick={() => route.go(`/macros/${r.macro}`)}>{r.name}</button>
    <span class="track" class:open={r.open || r.waitsAt}
      ><span
        style:animation-duration="{Math.max(1, r.lengthMs)}ms"
        style:animation-delay="{-Math.max(0, Date.now() - Date.parse(r.started))}ms"
      ></span></span
    >
    {#if r.queued}<span class="mono">+{r.queued}</span>{/if}
    <button class="stop" aria-label="Halt {r.name}" title="Halt {r.name}" onclick={() => haltMacro(r.macro)}>■</button>
  </span>
{/each}

<style>
  .run {
    display: flex;
    align-items: center;
    gap: 0.5rem;
    padding: 0 0.3rem 0 0.8rem;
    border-right: 1px solid var(--line);
    background: var(--armed-ground);
    flex-shrink: 0;
  }
  button {
    padding: 0 0.3rem;
    height: 100%;
  }
  .name {
    font-weight: 600;
    font-family: var(--condensed);
    font-size: 0.9375rem;
    max-width: 11rem;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .track {
    width: 64px;
    height: 5px;
    background: var(--armed-ground);
  }
  .track span {
    display: block;
    height: 100%;
    background: var(--armed);
    transform-origin: left;
    animation: empties linear forwards;
  }
  .track.open span {
    animation: none;
    opacity: 0.6;
  }
  @keyframes empties {
    to {
      transform: scaleX(0);
    }
  }
</style>
