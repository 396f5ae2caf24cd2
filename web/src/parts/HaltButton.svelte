<script lang="ts">
  import { haltAll, running } from "../live/runs.svelte";

  /** Halts everything that runs; it stands alone at the left end, on every view. */
  const runs = $derived(running());
  const words = $derived(runs.length === 0 ? "Halt" : `Halt ${runs.length} ${runs.length === 1 ? "run" : "runs"}`);
</script>

<button
  id="halt"
  class:going={runs.length > 0}
  disabled={runs.length === 0}
  onclick={haltAll}
  title={runs.length === 0
    ? "Nothing runs"
    : `Ends ${runs.map((r) => r.name).join(", ")} at once: nothing more is sent, no picture is changed (Ctrl+.)`}
>
  {words}{#if runs.length > 0}<small>changes no picture</small>{/if}
</button>

<style>
  button {
    border-right: 1px solid var(--line);
    color: var(--faint);
    min-width: min(92px, 11vw);
    flex: none;
    padding: 0 0.8rem;
    white-space: nowrap;
    line-height: 1.15;
  }
  .going {
    background: var(--armed);
    color: var(--on-alarm);
    font-weight: 600;
    cursor: pointer;
  }
  small {
    display: block;
    font-size: 0.6875rem;
    font-weight: 400;
  }
</style>
