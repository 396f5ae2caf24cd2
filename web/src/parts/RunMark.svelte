<script lang="ts">
  import type { Face } from "../api/client";

  /** How the run of a key's macro goes on: a bar that empties; and for a moment how it ended, each with a shape of its own. */
  let { run }: { run: NonNullable<Face["run"]> } = $props();

  /** How far its macro had gone when this began to be drawn, as a delay: before now. */
  const gone = $derived(-Math.max(0, Date.now() - Date.parse(run.started)));
</script>

{#if run.state === "running"}
  {#key run.id}
    <span
      class="progress"
      class:open={run.open}
      style:animation-duration="{run.lengthMs}ms"
      style:animation-delay="{gone}ms"
    ></span>
  {/key}
{:else}
  <svg class="outcome" viewBox="0 0 100 100" aria-hidden="true">
    {#if run.state === "done"}
      <path d="M12 55L40 82L90 20" />
    {:else if run.state === "halted"}
      <rect x="15" y="15" width="70" height="70" />
    {:else}
      <rect class="field" x="-30" width="160" height="100" />
      <path class="mark" d="M42 12h16v50h-16zM42 72h16v16h-16z" />
    {/if}
  </svg>
{/if}

<style>
  .progress {
    position: absolute;
    left: 6.25%;
    right: 6.25%;
    top: 6.25%;
    height: 6%;
    background: var(--armed);
    transform-origin: left;
    animation: empties linear forwards;
  }
  .progress.open {
    animation: waits 1.2s ease-in-out infinite alternate !important;
  }
  @keyframes empties {
    to {
      transform: scaleX(0);
    }
  }
  @keyframes waits {
    from {
      transform: scaleX(0.25);
    }
    to {
      transform: scaleX(0.25) translateX(300%);
    }
  }
  .outcome {
    position: absolute;
    left: 50%;
    top: 3cqh;
    transform: translateX(-50%);
    width: 20cqw;
    height: 20cqw;
    overflow: visible;
    fill: currentColor;
    animation: fades 3s ease-in forwards;
  }
  .outcome path:not(.mark) {
    fill: none;
    stroke: currentColor;
    stroke-width: 14;
  }
  .field {
    fill: #fff;
  }
  .mark {
    fill: #000;
  }
  @keyframes fades {
    60% {
      opacity: 1;
    }
    to {
      opacity: 0;
    }
  }
</style>
