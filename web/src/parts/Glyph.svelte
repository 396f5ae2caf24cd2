<script lang="ts" module>
  /** Line drawings by name, in a field of 24 by 24. */
  const drawings: Record<string, string> = {
    camera: "M3 7h11v10H3zM14 10.5l6-3.5v10l-6-3.5",
    cut: "M4 12h6M14 12h6M10 5v14M14 5v14",
    auto: "M4 17 L20 7M4 7h5M15 17h5",
    screen: "M3 5h18v11H3zM9 20h6M12 16v4",
    layers: "M12 4l9 4.5-9 4.5-9-4.5zM4 13l8 4 8-4",
    switcher: "M3 6h18v12H3zM7 10h2M11 10h2M15 10h2M7 14h2M11 14h2M15 14h2",
    lamp: "M9 18h6M10 21h4M12 3a6 6 0 0 1 4 10.500c-.8.8-1 1.500-1 2.500H9c0-1-.2-1.700-1-2.500A6 6 0 0 1 12 3z",
    mic: "M12 3a3 3 0 0 1 3 3v6a3 3 0 0 1-6 0V6a3 3 0 0 1 3-3zM6 11v1a6 6 0 0 0 12 0v-1M12 18v3",
    fader: "M7 4v16M17 4v16M4 9h6M14 15h6",
    phones: "M4 14v-2a8 8 0 0 1 16 0v2M4 14h3v6H4zM17 14h3v6h-3z",
    note: "M9 18V6l10-2v12M9 18a2.500 2.500 0 1 1-5 0 2.500 2.500 0 0 1 5 0zM19 16a2.500 2.500 0 1 1-5 0 2.500 2.500 0 0 1 5 0z",
    sound: "M7 4v16M12 4v16M17 4v16M5 9h4M10 15h4M15 8h4",
    other: "M5 5h14v14H5z",
  };
</script>

<script lang="ts">
  let { name, struck = false, size = 16 }: { name: string; struck?: boolean; size?: number | string } = $props();
</script>

<svg viewBox="0 0 24 24" width={size} height={size} aria-hidden="true">
  <path d={drawings[name] ?? drawings.other} />
  {#if struck}<path class="struck" d="M3 21L21 3" />{/if}
</svg>

<style>
  svg {
    display: block;
  }
  path {
    fill: none;
    stroke: currentColor;
    stroke-width: 1.8;
    stroke-linejoin: round;
    stroke-linecap: round;
  }
  .struck {
    stroke-width: 3;
  }
</style>
