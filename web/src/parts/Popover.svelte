<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import type { Snippet } from "svelte";
  import { holdsFocus } from "./focus";

  /** A small sheet over the view, at the upper right. It takes the focus and gives it back; Escape closes it. */
  let {
    title,
    wide = false,
    onclose,
    children,
  }: { title: string; wide?: boolean; onclose: () => void; children: Snippet } = $props();
</script>

<svelte:window onkeydown={(e) => e.key === "Escape" && (e.preventDefault(), onclose())} />

<div class="popover" class:wide role="dialog" aria-label={title} {@attach holdsFocus}>
  <header>
    <h2>{title}</h2>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
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
    background: var(--menu);
    border: 1px solid var(--line);
    border-radius: 6px;
    padding: 0.9rem 1.1rem;
    box-shadow: 0 8px 40px #000a;
    font-size: 0.8125rem;
  }
  .wide {
    max-width: 900px;
    max-height: calc(100vh - 112px);
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 2rem;
    margin-bottom: 0.7rem;
  }
</style>
