<script lang="ts">
  import { feed } from "../../live/feed.svelte";
  import { standing } from "../../live/status";
  import { ago, clock } from "../../live/words.svelte";

  /** How things stand, to be read from across the room: what is on air first. */
  const shown = $derived(standing());
</script>

<!-- It scrolls where it has no room, and so can have the focus. -->
<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="status" tabindex="0" role="status" aria-label="How things stand" data-help="desk/status">
  {#if !feed.connected}
    <div class="alarm"><small>Synaptor</small><span>not connected: presses do nothing</span></div>
  {/if}
  {#each shown as i (i.device + i.title)}
    {#if i.kind === "link"}
      <div class="alarm" title={i.text}><small>{i.device}</small><span>away {ago(i.since, clock.now)}</span></div>
    {:else}
      <div class={i.kind} class:active={i.active} class:unknown={i.quality === "unknown"} title="{i.device}: {i.title}">
        <small>{i.title}</small>
        <span class="cut" class:mono={i.bool}
          >{i.quality === "unknown"
            ? `${i.bool ? "" : i.text} ?`
            : !i.bool
              ? i.text
              : i.active
                ? ago(i.since, clock.now)
                : "off"}</span
        >
      </div>
    {/if}
  {:else}
    {#if feed.connected}<p class="quiet">No device reports anything yet.</p>{/if}
  {/each}
</div>

<style>
  .status {
    display: flex;
    flex: none;
    height: 62px;
    overflow-x: auto;
    scrollbar-width: none;
    background: var(--plate);
    border-bottom: 1px solid var(--line);
    white-space: nowrap;
  }
  .status > div {
    flex: 0 0 auto;
    padding: 0.25rem 0.9rem 0;
    border-right: 1px solid var(--line);
    border-bottom: 5px solid transparent;
    max-width: 24rem;
  }
  p {
    padding: 1.2rem 1rem;
  }
  small {
    display: block;
    font-size: 0.75rem;
    line-height: 1;
    color: var(--quiet);
  }
  span {
    display: block;
    font-family: var(--condensed);
    font-size: 28px;
    line-height: 1.25;
    font-weight: 600;
  }
  .mono {
    font-family: var(--mono);
    font-weight: 400;
  }
  .program-picture,
  .stream.active {
    border-bottom-color: var(--on-air) !important;
  }
  .preview-picture {
    border-bottom-color: var(--preview) !important;
  }
  .stream:not(.active) span {
    color: var(--quiet);
  }
  .alarm {
    background: var(--alarm);
    color: var(--on-alarm);
  }
  .alarm small {
    color: inherit;
  }
</style>
