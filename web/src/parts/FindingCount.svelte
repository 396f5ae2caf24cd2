<script lang="ts">
  import type { Findings } from "../api/client";
  import { feed } from "../live/feed.svelte";
  import { route } from "../live/route.svelte";

  /** How much was found in the macros and reflexes of the show; a click shows the first with a finding. */
  const found = $derived(feed.values.get("findings") as Findings | undefined);

  function open() {
    const of = (what: string, found?: Record<string, number>) =>
      Object.keys(found ?? {})
        .sort()
        .map((id) => `/${what}/${id}`);
    const paths = [...of("macros", found?.macros), ...of("reflexes", found?.reflexes)];
    const to = paths[(paths.indexOf(route.path) + 1) % paths.length];
    if (to) route.go(to);
  }
</script>

{#if found && found.total > 0}
  <button
    id="findings"
    class:stops={found.stops > 0}
    onclick={open}
    title={found.stops > 0
      ? `${found.stops} of ${found.total} findings stop a macro. A click shows one after the other.`
      : "Findings in macros and reflexes. A click shows one after the other."}
    ><span class="n">{found.total}</span> {found.total === 1 ? "finding" : "findings"}</button
  >
{/if}

<style>
  button {
    display: flex;
    gap: 0.35rem;
    align-items: center;
    background: none;
    border: 0;
    color: var(--finding);
    font: inherit;
    padding: 0 0.8rem;
    cursor: pointer;
    white-space: nowrap;
  }
  button:hover {
    background: var(--hover);
  }
  .n {
    font-weight: 600;
  }
  .stops .n {
    background: var(--finding);
    color: var(--on-alarm);
    padding: 0 0.4rem;
    border-radius: 8px;
  }
</style>
