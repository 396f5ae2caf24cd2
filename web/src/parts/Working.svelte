<script lang="ts">
  import { ProgressBar } from "carbon-components-svelte";
  import { waiting } from "../api/waiting.svelte";
  import Act from "./form/Act.svelte";

  /** Says that Synaptor is still at work on what was asked of it; what takes very long can be stopped. */
</script>

{#if waiting.long}
  <div class="working" role="status">
    <ProgressBar size="sm" labelText="Synaptor is at work on it" hideLabel />
    {#if waiting.canStop}
      <p>This takes long. <Act onclick={() => waiting.stop()}>Stop it</Act></p>
    {/if}
  </div>
{/if}

<style>
  .working {
    position: absolute;
    inset: 78px 0 auto;
    z-index: 60;
    pointer-events: none;
  }
  p {
    pointer-events: auto;
    width: fit-content;
    margin: 0.5rem auto;
    padding: 0.3rem 0.5rem 0.3rem 0.9rem;
    background: var(--menu);
    border: 1px solid var(--line);
    border-radius: 6px;
    font-size: 0.8125rem;
  }
</style>
