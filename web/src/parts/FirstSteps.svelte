<script lang="ts">
  import { first } from "../live/first.svelte";
  import { route } from "../live/route.svelte";
  import Act from "./form/Act.svelte";

  /** The checklist of the first steps; it fills itself, and stays until somebody leaves it. */
  first.listen();
  const left = $derived(first.steps.filter((s) => !s.done).length);
</script>

<div class="bar">
  {#if first.shown}
    <div class="first" role="status" aria-label="First steps">
      {#each first.steps as s (s.text)}
        <span class:done={s.done} data-step={s.text}
          >{s.done ? "✓" : "○"}
          {#if s.done}{s.text}{:else}<Act onclick={() => route.go(s.path)}>{s.text}</Act>{/if}</span
        >
      {/each}
      <Act quiet onclick={() => first.end()}>{left === 0 ? "Done: close this" : "Leave it"}</Act>
    </div>
  {/if}
</div>

<style>
  .first {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 1.5rem;
    align-items: center;
    padding: 0.25rem 1rem;
    background: var(--plate);
    border-bottom: 1px solid var(--line);
    font-size: 0.8125rem;
  }
  .first span {
    display: flex;
    align-items: center;
    gap: 0.4rem;
  }
  .done {
    color: var(--quiet);
  }
  .first > :global(:last-child) {
    margin-left: auto;
  }
</style>
