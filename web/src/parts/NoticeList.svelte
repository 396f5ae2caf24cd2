<script lang="ts">
  import { notices } from "../live/show.svelte";
</script>

<div class="notices" aria-live="polite">
  {#each notices.list as n (n.id)}
    <div class={n.kind}>
      <button onclick={() => notices.drop(n.id)} title="Click to close">{n.text}</button>
      {#if n.offer}
        {@const offer = n.offer}
        <button
          class="offer"
          onclick={() => {
            notices.drop(n.id);
            void offer.run();
          }}>{offer.text}</button
        >
      {/if}
    </div>
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
  .notices > div {
    pointer-events: auto;
    display: flex;
    align-items: center;
    border: 1px solid var(--line);
    border-radius: 4px;
    background: var(--hover);
    color: var(--text);
    font-size: 0.875rem;
    line-height: 1.35;
    max-width: 44rem;
  }
  button {
    padding: 0.6rem 1rem;
    text-align: left;
  }
  .offer {
    font-weight: 600;
    text-decoration: underline;
  }
  .notices > .refused {
    background: var(--alarm);
    color: var(--on-alarm);
  }
</style>
