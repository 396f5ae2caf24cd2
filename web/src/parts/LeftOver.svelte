<script lang="ts">
  import { api, type RollCallRow } from "../api/client";
  import { feed } from "../live/feed.svelte";
  import { leftOver } from "../live/runs.svelte";
  import { said } from "../live/show.svelte";
  import { ago, clock } from "../live/words.svelte";
  import PutBack from "./PutBack.svelte";

  /** That controllers send nothing; what is warned of, until somebody has seen it; and what a run that was cut off has left behind: it never returns by itself, somebody decides here. */
  const warned = $derived(feed.values.get("warning") as { text: string; by: string; at: string } | undefined);
  const rollCall = $derived(feed.values.get("rollcall") as RollCallRow | undefined);
  const left = $derived(leftOver());
  let open = $state("");

  async function seen() {
    said(
      await api.POST("/api/v1/devices/{id}/try", {
        params: { path: { id: "synaptor" } },
        body: { action: "seen", params: {} },
      }),
    );
  }
  async function endRollCall() {
    said(await api.PUT("/api/v1/preflight/touches", { body: { on: false } }));
  }
  async function leave(entry: string) {
    open = "";
    said(await api.DELETE("/api/v1/putback/{entry}", { params: { path: { entry } } }));
  }
</script>

<div class="left" role="alert">
  {#if rollCall?.on}
    <p id="counting-touches">
      <span>Roll call by {rollCall.by}: touches are counted, and controllers send nothing but Halt and Safe.</span>
      <button onclick={endRollCall}>End it</button>
    </p>
  {/if}
  {#if warned?.text}
    <p id="warning">
      <span><b>{warned.text}</b> {warned.by}, {ago(warned.at, clock.now)} ago</span>
      <button onclick={seen}>Seen</button>
    </p>
  {/if}
  {#if left.length > 0}
    {#each left as l (l.entry)}
      <p>
        <span><b>{l.title}</b> was cut off {ago(l.at, clock.now)} ago and has left something behind. {l.reason}</span>
        <button onclick={() => (open = l.entry)}>Put back …</button>
        <button onclick={() => leave(l.entry)}>Leave</button>
      </p>
    {/each}
  {/if}
</div>
{#if open}<PutBack entry={open} onclose={() => (open = "")} onleave={() => leave(open)} />{/if}

<style>
  .left {
    background: var(--alarm);
    color: var(--on-alarm);
    font-size: 0.875rem;
  }
  p {
    display: flex;
    gap: 1rem;
    align-items: center;
    padding: 0.35rem 1rem;
  }
  span {
    flex: 1;
  }
  button {
    background: var(--menu);
    color: #fff;
    padding: 0.3rem 0.8rem;
    border-radius: 3px;
  }
</style>
