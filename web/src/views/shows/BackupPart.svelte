<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type Backups } from "../../api/client";
  import None from "../../parts/form/None.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { said } from "../../live/show.svelte";
  import { ago, clock, size } from "../../live/words.svelte";

  /** The copies of the whole data folder: how old they are, where they are kept, and a new one. */
  const answer = new Answer<Backups>();
  const backups = $derived(answer.of("backups"));
  const load = () => answer.ask("backups", () => api.GET("/api/v1/backups"));
  void load();

  let busy = $state(false);
  let fields = $state<Record<string, string>>({});
  const newest = $derived(backups?.copies[0]);

  async function back() {
    busy = true;
    const r = await api.POST("/api/v1/backups");
    busy = false;
    said(r, r.data ? `A copy with ${r.data.shows === 1 ? "1 show" : `${r.data.shows} shows`} is kept.` : "");
    await load();
  }

  async function choose(folder: string) {
    const r = await api.PUT("/api/v1/backups", { body: { folder } });
    fields = fieldsOf(r.error);
    if (!fields.folder)
      said(r, folder ? `Copies are kept in ${folder} now.` : "Copies are kept in the data folder now.");
    await load();
  }
</script>

<div class="body">
  <p>
    {#if newest}The newest copy is {ago(newest.at, clock.now)} old.{:else if backups}There is no copy yet.{/if}
    <span class="quiet"
      >One is kept every day, with all shows, the journal and your own sheets, and looked through.</span
    >
  </p>
  {#if backups?.problem}<p class="wrong" role="alert">{backups.problem}</p>{/if}
  <div>
    <Button size="small" id="back-up" disabled={busy} on:click={back}
      >{busy ? "Being copied …" : "Keep a copy now"}</Button
    >
  </div>
  <Text
    id="backup-folder"
    label="Kept in"
    help="A folder on another disk survives this one. Empty: in the data folder."
    value={backups?.folder ?? ""}
    error={fields.folder}
    onchange={choose}
  />
  <ul>
    {#each backups?.copies ?? [] as b (b.name)}
      <li>
        <span>{new Date(b.at).toLocaleString("en-GB")}</span>
        <span class="quiet">{b.shows === 1 ? "1 show" : `${b.shows} shows`}, {size(b.bytes)}</span>
      </li>
    {:else}
      <li>
        <None waits={answer.waits("backups")} problem={answer.problem("backups")}
          >The first is kept a few minutes after the start.</None
        >
      </li>
    {/each}
  </ul>
  <p class="quiet">
    A copy becomes a data folder with <code>synaptor restore</code>. Where a show is damaged, Synaptor goes on with its
    newest copy when it is started with <code>--last-good</code>.
  </p>
</div>

<style>
  li {
    display: flex;
    justify-content: space-between;
    gap: 0.5rem;
    padding: 0.3rem 0;
    border-top: 1px solid var(--line);
  }
</style>
