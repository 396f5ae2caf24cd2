<script lang="ts">
  import { api, type Output } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import { feed } from "../../live/feed.svelte";
  import { me } from "../../live/me.svelte";
  import { said } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** The outputs, and who has taken them for a while. */
  let outputs = $state.raw<Output[]>([]);
  async function load() {
    const { data } = await api.GET("/api/v1/outputs");
    if (data) outputs = data;
  }
  $effect(() => {
    void [feed.epoch, feed.values.get("claims"), feed.values.get("show")];
    void load();
  });
  const mine = (o: Output) => o.claim?.by === me.now?.who?.id;
  const owner = $derived(me.now?.role === "owner");

  async function take(output: string) {
    said(await api.POST("/api/v1/claims", { body: { output } }));
    await load();
  }
  async function giveBack(id: string) {
    said(await api.DELETE("/api/v1/claims/{id}", { params: { path: { id } } }));
    await load();
  }
</script>

<p class="quiet">
  Whoever takes an output keeps it for a while: others change nothing of it, until it is given back, an owner takes it,
  or its holder has been gone for a minute.
</p>
{#each outputs as o (o.id)}
  <p data-output={o.title}>
    <strong>{o.title}</strong> <span class="quiet">{o.device}</span>
    {#if o.claim}
      <br />{mine(o) ? "You have it" : `${o.claim.name} has it`}, for {ago(o.claim.since, clock.now)}
      {#if mine(o) || owner}<Act onclick={() => giveBack(o.claim?.id ?? "")}>Give back</Act>{/if}
    {/if}
    {#if me.now?.who && !mine(o) && (!o.claim || owner)}<Act onclick={() => take(o.id)}>Take it</Act>{/if}
  </p>
{:else}<p>No device of this show has an output.</p>{/each}
{#if me.now && !me.now.claimed}<p class="quiet">
    Outputs are taken by people who are known: set a passphrase first.
  </p>{/if}
