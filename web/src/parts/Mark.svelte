<script lang="ts">
  let { size = 24 }: { size?: number } = $props();
</script>

<svg viewBox="0 0 32 32" width={size} height={size} aria-hidden="true">
  <path d="M7 22C7 9 25 9 25 22" />
  <circle cx="7" cy="23" r="4" /><circle cx="25" cy="23" r="4" />
</svg>

<style>
  path {
    fill: none;
    stroke: var(--select);
    stroke-width: 3;
    stroke-linecap: round;
  }
  circle {
    fill: var(--text);
  }
</style>
