<script lang="ts">
  import { api, type Marker } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import { timeOfDay } from "../../live/words.svelte";
  import { desk } from "./desk.svelte";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Text from "../../parts/form/Text.svelte";

  /** Sets a marker by hand, and shows the last ones. */
  const answer = new Answer<Marker[]>();
  const last = $derived((answer.of("last") ?? []).slice(-8).reverse());
  $effect(() => {
    feed.follow("desk-markers", ["markers"]);
    return () => feed.follow("desk-markers", []);
  });
  $effect(() => {
    void [feed.epoch, show.doc?.id, feed.values.get("markers")];
    void answer.ask("last", () => api.GET("/api/v1/markers"));
  });
  let text = $state("");
  let lead = $state<number | null>(0);
  async function set(e: SubmitEvent) {
    e.preventDefault();
    const body = { text: text.trim() || "Marker", ...(lead && { leadMs: Math.round(lead * 1000) }) };
    if (said(await api.POST("/api/v1/markers", { body }))) text = "";
  }
</script>

<form onsubmit={set}>
  <Text label="Marker" hideLabel placeholder="What is it about?" bind:value={text} maxlength={200} />
  <Amount
    label="Seconds before"
    title="How many seconds before now it points at"
    hideLabel
    min={0}
    max={3600}
    bind:value={lead}
  />
  <Act submit id="set-marker">Mark</Act>
</form>
<ol>
  {#each last as m (m.id)}
    <li>
      <span class="mono quiet">{timeOfDay(m.at, false, desk.now?.timeZone)}</span> <b>{m.text}</b>
      <small class="quiet">{m.kind}, {m.by}</small>
    </li>
  {/each}
</ol>

<style>
  form {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 4rem 4.5rem;
    gap: 0.5rem;
    padding: 0 0.75rem 0.5rem;
    align-items: start;
  }
  li {
    padding: 0.2rem 0.75rem;
    font-size: 0.875rem;
    border-top: 1px solid var(--line);
    overflow-wrap: anywhere;
  }
  b {
    font-weight: 600;
  }
</style>
