<script lang="ts">
  import { ProgressBar } from "carbon-components-svelte";
  import { api, type NightRehearsal, type NightRow } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** The rehearsal of the night: every macro and every key of the pages in use, from the present state. */
  let { night }: { night: NightRehearsal | undefined } = $props();

  $effect(() => {
    feed.follow("night", ["night"]);
    return () => feed.follow("night", []);
  });
  const row = $derived(feed.values.get("night") as NightRow | undefined);
  const begin = async () => said(await api.POST("/api/v1/preflight/night"));
</script>

<section aria-label="The night, rehearsed">
  <header>
    <h2>The night, rehearsed</h2>
    <Act id="rehearse-night" disabled={row?.running ?? false} onclick={begin}>Rehearse it now</Act>
  </header>
  {#if row?.running}
    <ProgressBar
      size="sm"
      value={row.done}
      max={Math.max(1, row.of)}
      labelText="{row.done} of {row.of} pages and macros"
    />
  {:else if row?.problem}
    <p class="wrong" role="alert">{row.problem}</p>
  {/if}
  {#if night}
    <p id="night">
      {night.keys} gestures of keys and {night.macros} macros tried from how things stood {ago(night.at, clock.now)} ago:
      {night.unsent === 0 ? "all of them could be sent" : `${night.unsent} could not be sent`}{night.changed
        ? ". The show has changed since"
        : ""}.
    </p>
  {:else if !row?.running}
    <p class="quiet">
      Tries every macro, and every key of the pages in use, without sending anything: what could not be sent as things
      stand, what never returns, which keys would be better placed.
    </p>
  {/if}
</section>

<style>
  h2 {
    font-size: 1.125rem;
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
</style>
