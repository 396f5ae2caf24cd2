<script lang="ts">
  import { notices } from "../live/show.svelte";
</script>

<div class="notices" aria-live="polite">
  {#each notices.list as n (n.id)}
    <button class={n.kind} onclick={() => notices.drop(n.id)} title="Click to close">{n.text}</button>
  {/each}
</div>

<style>
  .notices {
    position: absolute;
    left: 50%;
    bottom: 1rem;
    transform: translateX(-50%);
    display: grid;
    gap: 0.5rem;
    z-index: 60;
    justify-items: center;
    pointer-events: none;
  }
  button {
    pointer-events: auto;
    border: 1px solid var(--line);
    border-radius: 4px;
    background: #2a2f35;
    color: var(--text);
    padding: 0.6rem 1rem;
    font: inherit;
    font-size: 0.875rem;
    max-width: 44rem;
    cursor: pointer;
  }
  .refused {
    background: #fff;
    color: #000;
  }
</style>
