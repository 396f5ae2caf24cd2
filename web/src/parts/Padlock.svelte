<script lang="ts">
  /** Whoever looks may not use it. */
</script>

<svg viewBox="0 0 16 16" aria-hidden="true"><path d="M3 7h10v8H3zM5 7V4.5a3 3 0 0 1 6 0V7" /></svg>

<style>
  svg {
    position: absolute;
    right: 7%;
    top: 7%;
    width: 24%;
    fill: #f4f4f4;
    stroke: #f4f4f4;
    stroke-width: 1.6;
    filter: drop-shadow(0 0 2px #000);
    pointer-events: none;
  }
  path {
    fill-opacity: 0.25;
  }
</style>
