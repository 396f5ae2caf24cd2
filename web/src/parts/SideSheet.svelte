<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import type { Snippet } from "svelte";
  import { holdsFocus } from "./focus";

  /** A sheet at the right of a view. It takes the focus and gives it back; Escape closes it. */
  let { title, onclose, children }: { title: string; onclose: () => void; children: Snippet } = $props();
</script>

<svelte:window onkeydown={(e) => e.key === "Escape" && !e.defaultPrevented && (e.preventDefault(), onclose())} />

<aside aria-label={title} {@attach holdsFocus}>
  <header>
    <h2>{title}</h2>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
  </header>
  {@render children()}
</aside>

<style>
  aside {
    position: absolute;
    inset: 0 0 0 auto;
    width: 420px;
    background: var(--sheet);
    border-left: 1px solid var(--line);
    overflow: auto;
    font-size: 0.8125rem;
    z-index: 10;
  }
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    padding: 0.4rem 0.4rem 0.4rem 1rem;
    gap: 1rem;
  }
</style>
