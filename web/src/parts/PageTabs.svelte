<script lang="ts">
  import type { Page } from "../api/client";

  /** The pages of a zone as tabs. A bar under a tab says that the controller shows this page now. */
  let { pages, page, shown, onpage }: { pages: Page[]; page: string; shown: string[]; onpage: (id: string) => void } =
    $props();

  let tabs = $state<HTMLElement>();
  let width = $state(0);
  let more = $state(false);
  /** Whether there are more tabs than can be seen to the right. */
  function look() {
    if (tabs) more = tabs.scrollLeft + tabs.clientWidth < tabs.scrollWidth - 4;
  }
  $effect(() => {
    void [pages, width];
    tabs?.querySelector(`[data-tab="${page}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
    look();
  });
</script>

<span
  class="tabs"
  class:more
  role="tablist"
  aria-label="Pages"
  bind:this={tabs}
  bind:clientWidth={width}
  onscroll={look}
>
  {#each pages as p (p.id)}
    <button
      class="cut"
      role="tab"
      data-tab={p.id}
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
  .more {
    mask-image: linear-gradient(to left, transparent, #000 3rem);
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
