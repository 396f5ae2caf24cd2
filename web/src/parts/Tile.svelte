<script lang="ts">
  import type { Face } from "../api/client";
  import Glyph from "./Glyph.svelte";
  import LivePicture from "./LivePicture.svelte";
  import RunMark from "./RunMark.svelte";

  /** A face as the server worked it out. Every state has its own place, so that it is told apart without colour. */
  let {
    face,
    pressed = false,
    still = false,
    barred = false,
  }: {
    face: Face;
    pressed?: boolean;
    /** It shows what a state looks like, and does not move. */
    still?: boolean;
    /** Whoever looks may not use it. */
    barred?: boolean;
  } = $props();

  const on = (role: string) => face.on.includes(role);
  const pending = (role: string) => face.pending.includes(role);
  const state = $derived(
    [
      ["on-air", "preview", "armed", "running", "set"].filter(on),
      face.pending.map((r) => `pending-${r}`),
      face.unknown ? ["unknown"] : [],
      face.assumed ? ["assumed"] : [],
      face.away ? ["away"] : [],
      face.gone ? ["gone"] : [],
      face.refusal ? ["refused"] : [],
      face.blink ? ["blink"] : [],
      face.forced ? ["forced"] : [],
      face.picture || face.live ? ["pictured"] : [],
      face.run ? [`run-${face.run.state}`] : [],
      pressed ? ["pressed"] : [],
      still ? ["still"] : [],
      barred ? ["barred"] : [],
    ]
      .flat()
      .join(" "),
  );
</script>

<div
  class="tile {state}"
  style:--bg={face.background}
  style:--fg={face.text}
  style:--spine="var(--role-{face.role || 'other'})"
  data-state={state}
>
  {#if face.picture}<img
      class="picture {face.fit ?? 'fill'}"
      src="/api/v1/media/{face.picture}"
      alt=""
      draggable="false"
    />{/if}
  {#if face.live}<LivePicture device={face.live.device} source={face.live.source} rate={face.live.rate} />{/if}
  <span class="spine"></span>
  <span class="glyph"><Glyph name={face.glyph} struck={face.away} size="100%" /></span>
  <span class="where">{face.unsent ? "" : `${face.where ?? ""} `}</span>
  <span
    class="label {face.position ?? 'bottom'} {face.align ?? 'left'}"
    class:light={face.light}
    style:font-size="{face.size}cqw"
  >
    {#each face.lines as line, i (i)}<span>{`${line} `}</span>{/each}
  </span>
  <svg class="states" viewBox="0 0 100 100" aria-hidden="true">
    <rect class="frame" x="10.4" y="10.4" width="79.2" height="79.2" />
    <rect class="frame-gap" x="10.4" y="10.4" width="79.2" height="79.2" pathLength="100" />
    <path class="brackets" d="M9 26V9h17M74 9h17v17M91 74v17H74M26 91H9V74" />
    <rect class="run" x="6.25" y="6.25" width="87.5" height="6" />
    <rect class="band" x="6.25" y="75" width="87.5" height="18.75" />
    <rect class="set" x="6.25" y="81" width="43.75" height="12.75" />
    <path
      class="hatch"
      d="M6 94l19-19M22 94l19-19M38 94l19-19M54 94l19-19M70 94l19-19"
      stroke="#000"
      stroke-width="3"
    />
    <rect class="band-gap" x="8" y="76.75" width="84" height="15.25" pathLength="100" />
  </svg>
  {#if face.run}<RunMark run={face.run} />{/if}
  {#if face.unsent}<span class="unsent">{face.unsent} not sent</span>{/if}
  <span class="unknown-mark" aria-hidden="true">?</span>
  {#if face.forced}<span class="tried">tried out</span>{/if}
  {#if face.refusal}<span class="refusal">{face.refusal}</span>{/if}
</div>

<style>
  .tile {
    position: absolute;
    inset: 0;
    contain: strict;
    container-type: size;
    overflow: hidden;
    border-radius: 6px;
    background: var(--bg);
    color: var(--fg);
    font-family: var(--condensed);
    font-weight: 600;
    font-kerning: none;
    user-select: none;
    text-align: left;
  }
  .spine {
    position: absolute;
    inset: 0 auto 0 0;
    width: max(3px, 4.2cqw);
    background: var(--spine);
  }
  .glyph {
    position: absolute;
    left: 17.5cqw;
    top: 16cqh;
    width: 17cqw;
    height: 17cqw;
    color: color-mix(in srgb, var(--fg) 70%, var(--spine));
  }
  .where {
    position: absolute;
    right: 18.5cqw;
    top: 16.5cqh;
    font-size: 12cqw;
    line-height: 1.2;
    color: color-mix(in srgb, var(--fg) 75%, transparent);
  }
  .label {
    position: absolute;
    left: 16.5cqw;
    right: 16.5cqw;
    line-height: 1.12;
    white-space: pre;
  }
  .label.bottom {
    bottom: 27cqh;
  }
  .label.middle {
    top: 53cqh;
    transform: translateY(-50%);
  }
  .label.top {
    top: 35cqh;
  }
  .label.centre {
    text-align: center;
  }
  .label.right {
    text-align: right;
  }
  .gone .label {
    text-decoration: line-through;
    text-decoration-thickness: 0.12em;
  }
  .label.light {
    font-weight: 400;
  }
  .picture {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  .picture.fit {
    object-fit: contain;
  }
  .pictured .label,
  .pictured .where,
  .pictured .glyph {
    filter: drop-shadow(0 0 1.5cqw #000) drop-shadow(0 0 3cqw #000);
  }
  .pictured .glyph {
    visibility: hidden;
  }
  .tried {
    position: absolute;
    inset: 0 0 auto;
    background: var(--select);
    color: #000;
    font-size: max(8px, 9cqw);
    line-height: 1.3;
    text-align: center;
  }
  :global(html.blink-off) .blink {
    filter: brightness(0.35);
  }
  .label span {
    display: block;
  }
  .states {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  .states > * {
    visibility: hidden;
  }
  .band {
    fill: var(--on-air);
  }
  .frame {
    fill: none;
    stroke: var(--preview);
    stroke-width: 8.33;
  }
  .brackets {
    fill: none;
    stroke: var(--armed);
    stroke-width: 5;
  }
  .run {
    fill: var(--armed);
  }
  .set {
    fill: #fff;
  }
  .band-gap,
  .frame-gap {
    fill: none;
    stroke-width: 3.5;
    stroke-dasharray: 80 20;
  }
  /* Only what is seen moves: a hidden animation costs as much as a visible one. */
  .pending-on-air .band-gap,
  .pending-set .band-gap,
  .pending-running .band-gap,
  .pending-preview .frame-gap {
    animation: travel 0.8s steps(12) infinite;
  }
  .band-gap {
    stroke: var(--on-air);
  }
  .frame-gap {
    stroke: var(--preview);
    stroke-width: 5;
  }
  .still rect {
    animation: none !important;
  }
  @keyframes travel {
    to {
      stroke-dashoffset: -100;
    }
  }
  .on-air .band,
  .preview .frame,
  .armed .brackets,
  .running .run,
  .set .set,
  .pending-on-air .band-gap,
  .pending-set .band-gap,
  .pending-running .band-gap,
  .pending-preview .frame-gap {
    visibility: visible;
  }
  .pending-on-air .band {
    fill-opacity: 0.35;
  }
  .pending-preview .frame {
    stroke-opacity: 0.3;
  }
  .pending-set .band-gap {
    stroke: #fff;
  }
  .pending-running .band-gap {
    stroke: var(--armed);
  }
  .running .run {
    transform-origin: 6.25px 0;
    animation: empty 1s linear infinite;
  }
  @keyframes empty {
    from {
      transform: scaleX(1);
    }
    to {
      transform: scaleX(0.15);
    }
  }
  .assumed .hatch {
    visibility: visible;
  }
  .unknown-mark {
    display: none;
    position: absolute;
    right: 15cqw;
    top: 4cqh;
    font-size: 36cqw;
    line-height: 1;
    color: #fff;
    text-shadow: 0 0 4cqw #000;
  }
  .unknown .unknown-mark {
    display: block;
  }
  .unknown .where {
    visibility: hidden;
  }
  .unknown:not(.on-air) .label {
    opacity: 0.85;
  }
  .refusal {
    position: absolute;
    inset: 0;
    background: #fff;
    color: #000;
    font-size: 10.5cqw;
    line-height: 1.15;
    padding: 7cqw 6cqw;
    overflow: hidden;
    font-family: var(--condensed);
  }
  .unsent {
    position: absolute;
    right: 6.25%;
    top: 15%;
    font-size: max(7px, 9cqw);
    line-height: 1.2;
    background: #fff;
    color: #000;
    padding: 0 3cqw;
  }
  /* What is behind a padlock is dim: nobody presses in vain. */
  .barred > :not(.refusal, .states) {
    opacity: 0.38;
  }
  .barred .where,
  .barred .unknown-mark {
    visibility: hidden;
  }
  .pressed {
    filter: brightness(1.5);
  }
</style>
