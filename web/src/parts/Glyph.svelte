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
    scene: "M3 6h18v12H3zM3 15l5-4 4 3 3-2 6 4",
    filter: "M12 4l6 8a7 7 0 1 1-12 0z",
    stream: "M12 12v8M8 20h8M8.500 15.500a5 5 0 1 1 7 0M5.500 18a9 9 0 1 1 13 0",
    record: "M12 5a7 7 0 1 1-.01 0zM12 9.500a2.500 2.500 0 1 1-.01 0z",
    lookback: "M5 5v5h5M5.500 10a7.500 7.500 0 1 1-.8 5M12 8v4l3 2",
    talk: "M4 5h16v10H12l-5 4v-4H4zM8 10h8",
    bell: "M6 16V11a6 6 0 0 1 12 0v5l2 2H4zM10 21h4",
    target: "M12 6a6 6 0 1 1-.01 0zM12 3v5M12 16v5M3 12h5M16 12h5",
    stop: "M7 7h10v10H7z",
    sun: "M12 8a4 4 0 1 1-.01 0zM12 3v2M12 19v2M3 12h2M19 12h2M5.600 5.600l1.400 1.400M17 17l1.400 1.400M5.600 18.400L7 17M17 7l1.400-1.400",
    play: "M8 5l11 7-11 7z",
    pause: "M8 5v14M16 5v14",
    film: "M4 5h16v14H4zM8 5v14M16 5v14M4 9.500h4M4 14.500h4M16 9.500h4M16 14.500h4",
    jog: "M12 5a7 7 0 1 1-.01 0zM12 8v3",
    in: "M6 5v14M19 12H9M13 8l-4 4 4 4",
    out: "M18 5v14M5 12h10M11 8l4 4-4 4",
    clock: "M12 4a8 8 0 1 1-.01 0zM12 8v4l3 2",
    chat: "M4 5h16v11h-9l-4 4v-4H4z",
    window: "M3 5h18v14H3zM3 9h18",
    link: "M10 14a4 4 0 0 0 6 0l3-3a4 4 0 0 0-6-6l-1 1M14 10a4 4 0 0 0-6 0l-3 3a4 4 0 0 0 6 6l1-1",
    keyboard: "M3 7h18v10H3zM6 10h1M10 10h1M14 10h1M17.500 10h.5M8 14h8",
    message: "M4 6h16v12H4zM4 7l8 6 8-6",
    streaming: "M12 12v8M8 20h8M8.500 15.500a5 5 0 1 1 7 0M5.500 18a9 9 0 1 1 13 0",
    intercom: "M5 13v-1a7 7 0 0 1 14 0v1M5 13h3v6H5zM16 13h3v6h-3zM17 19c0 2-2 2-4 2",
    lights: "M9 18h6M10 21h4M12 3a6 6 0 0 1 4 10.500c-.8.8-1 1.500-1 2.500H9c0-1-.2-1.700-1-2.500A6 6 0 0 1 12 3z",
    player: "M4 5h16v14H4zM10 9l5 3-5 3z",
    computer: "M4 5h16v10H4zM9 19h6M12 15v4",
    sound: "M7 4v16M12 4v16M17 4v16M5 9h4M10 15h4M15 8h4",
    page: "M5 3h9l5 5v13H5zM14 3v5h5",
    home: "M3 11l9-7 9 7M6 9v11h12V9",
    back: "M9 6l-6 6 6 6M3 12h12a5 5 0 0 1 0 8h-2",
    next: "M13 6l6 6-6 6M4 12h15",
    profile: "M4 7h13v13H4zM7 4h13v13",
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
