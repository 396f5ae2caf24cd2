<script lang="ts">
  import type { Page } from "../api/client";

  /** The pages of a zone as tabs. A bar under a tab says that the controller shows this page now. */
  let { pages, page, shown, onpage }: { pages: Page[]; page: string; shown: string[]; onpage: (id: string) => void } =
    $props();
</script>

<span class="tabs" role="tablist" aria-label="Pages">
  {#each pages as p (p.id)}
    <button
      class="cut"
      role="tab"
      aria-selected={p.id === page}
      class:shown={shown.includes(p.id)}
      class:scratch={p.scratch}
      title={[
        p.name,
        shown.includes(p.id) && "which the controller shows now",
        p.scratch && "a scratch page: Preflight and archives leave it out",
      ]
        .filter(Boolean)
        .join(", ")}
      onclick={() => onpage(p.id)}>{p.name}</button
    >
  {/each}
</span>

<style>
  .tabs {
    display: flex;
    overflow-x: auto;
    scrollbar-width: none;
    min-width: 0;
  }
  button {
    position: relative;
    border-bottom: 2px solid transparent;
    color: var(--quiet);
    padding: 0.4rem 0.55rem;
    max-width: 10rem;
    flex: none;
  }
  button[aria-selected="true"] {
    color: var(--text);
    border-color: var(--text);
  }
  .scratch {
    font-style: italic;
  }
  .shown::after {
    content: "";
    position: absolute;
    right: 2px;
    top: 5px;
    width: 5px;
    height: 5px;
    background: var(--text);
  }
</style>
