<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, type ClosedNight, type Closing } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { haltMacro, running } from "../../live/runs.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";
  import Act from "../../parts/form/Act.svelte";
  import None from "../../parts/form/None.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Popover from "../../parts/Popover.svelte";

  /** What is still on, with its off; then all that is kept of a night, in one step. */
  let { onclose }: { onclose: () => void } = $props();

  const answer = new Answer<Closing>();
  const doc = $derived(answer.of("night"));
  const load = () => answer.ask("night", () => api.GET("/api/v1/night"));
  // What is on changes while it is looked at.
  $effect(() => {
    void [feed.values.get("status"), Math.floor(clock.now / 2000)];
    void load();
  });
  const runs = $derived(running());
  const day = new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long" });
  let name = $state(`Night of ${day}`);
  let busy = $state(false);
  let saved = $state.raw<ClosedNight | undefined>();

  const off = async (device: string, path: string) =>
    said(await api.POST("/api/v1/night/off", { body: { device, path } }));
  async function close() {
    busy = true;
    const r = await api.POST("/api/v1/night", { body: { name, ...(doc && { since: doc.since }) } });
    busy = false;
    if (said(r)) saved = r.data;
    await load();
  }
  const address = (night: string, file: string) =>
    `/api/v1/nights/${encodeURIComponent(night)}/${encodeURIComponent(file)}`;
</script>

<Popover title="Close the night" wide {onclose}>
  <div data-help="desk/close-the-night">
    {#if !doc}
      <None waits={answer.waits("night")} problem={answer.problem("night")}>Nothing is known yet.</None>
    {:else}
      <h3>Still on</h3>
      <ul id="still-on">
        {#each runs as r (r.id)}
          <li data-still={r.name}>
            <span><b>{r.name}</b> runs, for {ago(r.started, clock.now)}</span>
            <Act onclick={() => haltMacro(r.macro)}>Halt</Act>
          </li>
        {/each}
        {#each doc.still as s (s.device + s.path)}
          <li data-still="{s.device}/{s.path}">
            <span
              ><b>{s.title}</b> <em>{s.still}</em>
              <span class="quiet">{s.deviceName}, for {ago(s.since, clock.now)}</span></span
            >
            {#if s.off}<Act onclick={() => off(s.device, s.path)}>{s.off.title}</Act>
            {:else}<span class="quiet">{s.why}</span>{/if}
          </li>
        {/each}
        {#if runs.length + doc.still.length === 0}
          <li class="quiet">Nothing runs, is on air, records, is open, talks or is lit.</li>
        {/if}
      </ul>
      <h3>Keep</h3>
      <p class="quiet">
        From {new Date(doc.since).toLocaleString("en-GB", { weekday: "short", hour: "2-digit", minute: "2-digit" })} until
        now: a version of the show, its archive, the report, the markers, the journal, and a copy of all data.
      </p>
      <form
        onsubmit={(e) => {
          e.preventDefault();
          void close();
        }}
      >
        <Text label="Name of the version" bind:value={name} maxlength={80} required />
        <Button type="submit" size="small" id="keep-the-night" disabled={busy}>{busy ? "Keeping …" : "Keep it"}</Button>
      </form>
      {#if saved}
        <ul id="kept" role="status">
          {#each saved.saved as row (row.what)}
            <li data-kept={row.what} class:wrong={!!row.problem}>
              {row.problem ? `Not kept: ${row.what}. ${row.problem}` : row.text}
            </li>
          {/each}
        </ul>
      {/if}
      <p class="links">
        <a href="/api/v1/night/report?since={encodeURIComponent(doc.since)}" target="_blank" rel="noopener"
          >Report until now</a
        >
        <a href="/api/v1/night/report?form=csv&since={encodeURIComponent(doc.since)}">as a table</a>
      </p>
      {#if doc.nights.length > 0}
        <h3>Nights that were closed</h3>
        <ul>
          {#each doc.nights.slice(0, 12) as n (n.id)}
            <li class="night" data-night={n.id}>
              <span>{n.id}</span>
              {#each n.files as f (f)}
                <a href={address(n.id, f)} target={f.endsWith(".html") ? "_blank" : undefined} rel="noopener">{f}</a>
              {/each}
            </li>
          {/each}
        </ul>
      {/if}
    {/if}
  </div>
</Popover>

<style>
  li {
    display: flex;
    align-items: center;
    gap: 0.75rem;
    min-height: 28px;
    border-top: 1px solid var(--line);
    font-size: 0.875rem;
  }
  li > span:first-child {
    flex: 1;
  }
  em {
    font-style: normal;
    background: var(--armed-ground);
    padding: 0 0.4rem;
  }
  form {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 0.75rem;
    align-items: end;
    margin: 0.5rem 0;
  }
  .links {
    display: flex;
    gap: 1rem;
    margin: 0.5rem 0;
    font-size: 0.875rem;
  }
  .night {
    flex-wrap: wrap;
    padding: 0.25rem 0;
  }
  .wrong {
    font-weight: 600;
  }
</style>
