<script lang="ts">
  import type { Snippet } from "svelte";

  /**
   * The front of a stand-in: a housing with keys, sliders and displays. Each has materials of its own: --body, --ink,
   * --key and --key-ink of a key at rest, --lit and --lit-ink of one that is on.
   */
  let {
    look,
    dead,
    children,
  }: {
    /** The materials, as CSS variables. */
    look: string;
    /** It has no power. */
    dead: boolean;
    children: Snippet;
  } = $props();
</script>

<div class="front" class:dead style={look}>{@render children()}</div>

<style>
  .front {
    margin: 0 1rem;
    padding: 0.8rem;
    border-radius: 6px;
    background: var(--body);
    color: var(--ink);
    font-size: 0.75rem;
    display: grid;
    gap: 0.6rem;
    overflow: hidden;
  }
  .dead {
    filter: grayscale(0.7) brightness(0.55);
  }
  :global(.front .quiet) {
    color: inherit;
    opacity: 0.8;
  }
  :global(.front button) {
    border: 0;
    border-radius: 4px;
    background: var(--key);
    color: var(--key-ink, inherit);
    font: inherit;
    padding: 0.3rem 0.5rem;
    min-width: 0;
    cursor: pointer;
  }
  :global(.front :is(button[aria-pressed="true"], .lit)) {
    background: var(--lit);
    color: var(--lit-ink);
  }
  :global(.front :is(input, select)) {
    width: 100%;
    min-width: 0;
    box-sizing: border-box;
    accent-color: var(--lit);
    font: inherit;
    color: inherit;
  }
  :global(.front :is(input:not([type]), select)) {
    padding: 0.3rem 0.4rem;
    border: 1px solid color-mix(in srgb, var(--ink) 30%, transparent);
    border-radius: 4px;
    background: var(--key);
    color: var(--key-ink, inherit);
  }
  :global(.front .keys) {
    display: flex;
    flex-wrap: wrap;
    gap: 0.3rem;
    align-items: center;
  }
  :global(.front .strips) {
    display: grid;
    grid-auto-flow: column;
    grid-auto-columns: 1fr;
    gap: 4px;
  }
  :global(.front .strip) {
    display: grid;
    justify-items: center;
    align-content: start;
    gap: 6px;
    min-width: 0;
    text-align: center;
  }
  :global(.front :is(.tape, small)) {
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 0.6875rem;
  }
  :global(.front .tape) {
    width: 100%;
    padding: 1px 2px;
    box-sizing: border-box;
    background: #efe9d8;
    color: #2a241d;
  }
  :global(.front .lcd) {
    padding: 0.3rem 0.5rem;
    border-radius: 3px;
    background: var(--screen, #1a2420);
    color: var(--glow, #b8d8c4);
    font-family: var(--mono);
  }
</style>
