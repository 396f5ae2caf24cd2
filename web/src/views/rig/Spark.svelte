<script lang="ts">
  /** The last latencies as a line; the newest at the right. */
  let { samples }: { samples: number[] } = $props();

  const width = 60;
  const height = 18;
  const top = $derived(Math.max(...samples, 1));
  const points = $derived(
    samples
      .map((s, i) => `${(i / Math.max(1, samples.length - 1)) * width},${height - 1 - (s / top) * (height - 2)}`)
      .join(" "),
  );
</script>

{#if samples.length > 1}
  <svg viewBox="0 0 {width} {height}" {width} {height} role="img" aria-label="the last {samples.length} latencies"
    ><polyline {points} /></svg
  >
{/if}

<style>
  svg {
    display: block;
  }
  polyline {
    fill: none;
    stroke: var(--quiet);
    stroke-width: 1.2;
  }
</style>
