<script lang="ts">
  import type { Snippet } from "svelte";

  /** A small sheet over the view, at the upper right. Escape closes it. */
  let { title, onclose, children }: { title: string; onclose: () => void; children: Snippet } = $props();
</script>

<svelte:window onkeydown={(e) => e.key === "Escape" && (e.preventDefault(), onclose())} />

<div class="popover" role="dialog" aria-label={title}>
  <header>
    <h2>{title}</h2>
    <button onclick={onclose}>Close</button>
  </header>
  {@render children()}
</div>

<style>
  .popover {
    position: absolute;
    right: 1rem;
    top: 96px;
    z-index: 50;
    max-width: 380px;
    max-height: 70vh;
    display: flex;
    flex-direction: column;
    background: #1c2024;
    border: 1px solid var(--line);
    border-radius: 6px;
    padding: 0.9rem 1.1rem;
    box-shadow: 0 8px 40px #000a;
    font-size: 0.8125rem;
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 2rem;
    margin-bottom: 0.7rem;
  }
  h2 {
    font-size: 1rem;
  }
  button {
    background: none;
    border: 1px solid var(--line);
    color: inherit;
    padding: 0.2rem 0.6rem;
    border-radius: 4px;
    cursor: pointer;
  }
</style>
