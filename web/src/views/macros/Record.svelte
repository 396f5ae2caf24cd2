<script lang="ts">
  import Text from "../../parts/form/Text.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { api, type Recording } from "../../api/client";
  import { feed } from "../../live/feed.svelte";
  import { route } from "../../live/route.svelte";
  import { said } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";
  import { macro } from "./macro.svelte";

  /** Records what is done, on controls and on front panels, and makes a macro of it. */
  const recording = $derived(feed.values.get("recording") as Recording | undefined);
  let name = $state("");

  async function begin() {
    said(await api.POST("/api/v1/recording"));
  }

  async function end(discard: boolean) {
    const r = await api.POST("/api/v1/recording/end", { body: { name, discard } });
    if (!said(r) || discard) return;
    name = "";
    await macro.list();
    if (r.data?.id) route.go(`/macros/${r.data.id}`);
  }
</script>

<div class="record" class:on={recording?.on}>
  {#if recording?.on}
    <b>Recording since {ago(recording.since, clock.now)}</b>
    <span>{recording.count === 0 ? "Press keys, or operate a device by hand." : `${recording.count} done so far.`}</span
    >
    <Text hideLabel label="Name of the macro" placeholder="Name of the macro" bind:value={name} />
    <Act id="end-recording" disabled={recording.count === 0} onclick={() => end(false)}>Make a macro of it</Act>
    <Act onclick={() => end(true)} quiet>Throw it away</Act>
  {:else}
    <Act id="record" onclick={begin}>Record what I do</Act>
    <span class="quiet">Presses and hands on front panels, with their timing, become a macro.</span>
  {/if}
</div>

<style>
  .record {
    display: flex;
    gap: 0.9rem;
    align-items: center;
    padding: 0.3rem 1rem;
    border-top: 1px solid var(--line);
    font-size: 0.8125rem;
    background: var(--plate);
    margin-top: auto;
  }
  .on {
    background: var(--armed-ground);
  }
</style>
