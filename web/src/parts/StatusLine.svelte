<script lang="ts">
  import type { StatusItem } from "../api/client";
  import Popover from "./Popover.svelte";
  import RunningNow from "./RunningNow.svelte";
  import { ago, clock } from "../live/words.svelte";
  import { feed } from "../live/feed.svelte";
  import { standing } from "../live/status";

  const items = $derived(standing());
  /** What a trusted network means, while one is. */
  const trust = $derived((feed.values.get("doors") as { trust: string } | undefined)?.trust ?? "");
  const down = $derived(items.filter((i) => i.kind === "link"));
  const headlines = $derived(items.filter((i) => i.kind !== "link"));

  let row = $state<HTMLElement>();
  let width = $state(0);
  /** How many parts did not fit: they have wrapped, and what wraps is not seen. */
  let hidden = $state(0);
  let all = $state(false);
  $effect(() => {
    void [width, items, feed.connected, clock.now];
    const parts = [...(row?.children ?? [])] as HTMLElement[];
    hidden = parts.filter((p) => p.offsetTop > (parts[0]?.offsetTop ?? 0)).length;
  });
</script>

{#snippet headline(h: StatusItem)}
  <span
    class="item"
    class:unknown={h.quality === "unknown"}
    class:idle={!h.active && (h.bool || h.text === "none")}
    title="{h.device}: {h.title}"
  >
    {#if h.kind === "program-picture" || h.kind === "preview-picture" || (h.kind === "stream" && h.active)}
      <span class="mark {h.kind}"></span>
    {/if}
    <span class="title quiet">{h.title}</span>
    {#if h.quality === "unknown"}<span class="value">?</span>
    {:else if !h.bool}<span class="value">{h.text}</span>
    {:else}<span class="value mono">{h.active ? ago(h.since, clock.now) : "off"}</span>{/if}
  </span>
{/snippet}

<div class="line" role="status" aria-label="Devices">
  <div class="parts" bind:this={row} bind:clientWidth={width}>
    <RunningNow />
    {#if !feed.connected}
      <span class="alarm">Synaptor is not connected to this page. Presses do nothing. Trying again …</span>
    {/if}
    {#each down as d (d.device)}
      <span class="alarm" title={d.text}
        >{d.device} away {ago(d.since, clock.now)}<span class="reason"> · {d.text}</span></span
      >
    {/each}
    {#if trust}<span class="item" title={trust}><span class="title quiet">Trusted network</span>{trust}</span>{/if}
    {#each headlines as h (h.device + h.title)}
      {@render headline(h)}
    {:else}
      {#if down.length === 0 && feed.values.has("status")}<span class="item quiet">No device reports anything yet.</span
        >{/if}
    {/each}
  </div>
  {#if hidden > 0}
    <button class="more" aria-expanded={all} onclick={() => (all = !all)}>{hidden} more</button>
  {/if}
</div>
{#if all}
  <Popover title="What the devices report" onclose={() => (all = false)}>
    <ul>
      {#each headlines as h (h.device + h.title)}<li>
          {@render headline(h)}<span class="quiet">{h.device}</span>
        </li>{/each}
    </ul>
  </Popover>
{/if}

<style>
  .line {
    container-type: inline-size;
    display: flex;
    flex: none;
    height: 32px;
    align-items: stretch;
    background: var(--plate);
    border-bottom: 1px solid var(--line);
    font-size: 0.8125rem;
    white-space: nowrap;
  }
  .parts {
    flex: 1;
    min-width: 0;
    height: 31px;
    display: flex;
    flex-wrap: wrap;
    overflow: hidden;
  }
  .parts > :global(*) {
    height: 31px;
  }
  .more {
    background: none;
    border: 0;
    border-left: 1px solid var(--line);
    padding: 0 0.7rem;
    color: inherit;
    font: inherit;
    cursor: pointer;
  }
  li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    padding: 0.3rem 0;
    border-top: 1px solid var(--line);
  }
  li .item {
    border: 0;
    padding-left: 0;
  }
  .item,
  .alarm {
    display: flex;
    align-items: center;
    gap: 0.4rem;
    padding: 0 0.7rem;
    min-width: 0;
    flex-shrink: 0;
    border-right: 1px solid var(--line);
  }
  .alarm {
    background: var(--alarm);
    color: var(--on-alarm);
    font-weight: 600;
    gap: 0.3rem;
  }
  .reason {
    font-weight: 400;
  }
  /* What is on air matters more than the reason, which Rig gives too. */
  @container (max-width: 1500px) {
    .reason {
      display: none;
    }
  }
  .value {
    font-family: var(--condensed);
    font-weight: 600;
    font-size: 0.9375rem;
  }
  .mark {
    width: 12px;
    height: 12px;
  }
  .idle .value {
    color: var(--quiet);
    font-weight: 400;
  }
  .mark.stream,
  .mark.program-picture {
    background: linear-gradient(transparent 55%, var(--on-air) 55%);
    outline: 1px solid var(--line);
  }
  .mark.preview-picture {
    border: 2px solid var(--preview);
    box-sizing: border-box;
  }
  .unknown .mark {
    filter: grayscale(1);
  }
</style>
