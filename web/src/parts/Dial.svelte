<script lang="ts">
  import type { Face } from "../api/client";

  /** A dial as an arc of 270 degrees, or a slider as a bar, with its value as the server words it. */
  let { face, kind, pressed = false }: { face: Face | undefined; kind: string; pressed?: boolean } = $props();

  const share = $derived(face?.dial?.share ?? 0);
  const state = $derived(
    [
      face?.dial ? "" : "idle",
      ...(face?.on ?? []),
      ...(face?.pending ?? []).map((r) => `pending-${r}`),
      face?.unknown || face?.dial?.text === "?" ? "unknown" : "",
      face?.away ? "away" : "",
      face?.refusal ? "refused" : "",
      pressed ? "pressed" : "",
    ]
      .filter(Boolean)
      .join(" "),
  );
</script>

<div class="{kind} {state}" data-state={state} style:--hue="var(--role-{face?.role || 'other'})">
  {#if kind === "dial"}
    <svg viewBox="0 0 100 100" aria-hidden="true">
      <path class="track" d="M21.700 78.300 A40 40 0 1 1 78.300 78.300" pathLength="100" />
      <path
        class="value"
        d="M21.700 78.300 A40 40 0 1 1 78.300 78.300"
        pathLength="100"
        stroke-dasharray="{share * 100} 200"
      />
      <path class="hand" d="M50 6v12" transform="rotate({-135 + share * 270} 50 50)" />
    </svg>
  {:else if kind === "ribbon" && !face?.dial}
    <svg class="hairline" viewBox="0 0 100 20" aria-hidden="true" preserveAspectRatio="xMidYMid meet">
      <path d="M12 10H88M18 4l-6 6 6 6M82 4l6 6-6 6" />
    </svg>
  {:else}
    <span class="slot"><i style:--share="{share * 100}%"></i></span>
  {/if}
  <span class="text">
    {#if face}<b>{`${face.dial?.text ?? ""} `}</b><span>{face.label || face.name}</span>{/if}
  </span>
  <i class="lamp"></i>
  {#if face?.refusal}<span class="refusal">{face.refusal}</span>{/if}
</div>

<style>
  div {
    position: absolute;
    inset: 0;
    container-type: size;
    overflow: hidden;
    font-family: var(--condensed);
    font-weight: 600;
    background: #1d2126;
    color: #fff;
    user-select: none;
  }
  .dial {
    border-radius: 50%;
  }
  .slider,
  .ribbon {
    border-radius: 6px;
  }
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  path {
    fill: none;
    stroke-width: 7;
  }
  .track {
    stroke: var(--line);
  }
  .value {
    stroke: var(--hue);
  }
  .hand {
    stroke: #fff;
    stroke-width: 4;
  }
  .idle .value,
  .idle .hand,
  .unknown .value,
  .unknown .hand {
    visibility: hidden;
  }
  .dial .text {
    position: absolute;
    inset: 0 19cqw;
    display: grid;
    align-content: center;
    text-align: center;
  }
  .text b {
    font-size: max(11px, 15cqw);
    line-height: 1.15;
  }
  .text span {
    font-size: max(10px, 12.5cqw);
    line-height: 1.15;
    color: #d3d9df;
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
    overflow: hidden;
    overflow-wrap: anywhere;
  }
  .hairline path {
    stroke: #aab3bc;
    stroke-width: 1.5;
  }
  .slot {
    position: absolute;
    left: 50%;
    top: 6%;
    bottom: max(48px, 24%);
    width: max(10px, 18cqw);
    margin-left: calc(max(10px, 18cqw) / -2);
    background: var(--line);
    display: flex;
    align-items: flex-end;
  }
  .slot i {
    width: 100%;
    height: var(--share);
    background: var(--hue);
    border-top: 4px solid #fff;
    min-height: 4px;
  }
  @container (min-aspect-ratio: 3/2) {
    .slot {
      inset: 14% 6% auto;
      width: auto;
      height: 30%;
      margin: 0;
    }
    .slot i {
      width: var(--share);
      height: 100%;
      border-top: 0;
      border-right: 4px solid #fff;
    }
  }
  .unknown .slot i,
  .idle .slot i {
    visibility: hidden;
  }
  .slider .text,
  .ribbon .text {
    position: absolute;
    inset: auto 4px 5px;
    display: grid;
    text-align: center;
  }
  .slider .text b,
  .slider .text span {
    font-size: max(10.5px, min(17cqw, 26px));
  }
  .lamp {
    position: absolute;
    left: 36%;
    right: 36%;
    bottom: 6%;
    height: max(5px, 7cqmin);
    box-sizing: border-box;
  }
  .slider .lamp,
  .ribbon .lamp {
    inset: 0 0 auto;
    height: 6px;
  }
  .set .lamp {
    background: #fff;
  }
  .on-air .lamp {
    background: var(--on-air);
  }
  .armed .lamp {
    background: var(--armed);
  }
  .pending-set .lamp,
  .pending-on-air .lamp,
  .pending-armed .lamp {
    border: 2px dashed #fff;
  }
  .away {
    opacity: 0.6;
  }
  .pressed {
    background: #39424c;
  }
  .refusal {
    position: absolute;
    inset: 15%;
    background: #fff;
    color: #000;
    font-size: max(10px, 9cqw);
    line-height: 1.15;
    padding: 3px;
    overflow: hidden;
  }
</style>
