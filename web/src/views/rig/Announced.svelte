<script lang="ts">
  import { api, type Announced } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import { said, show } from "../../live/show.svelte";

  /** What announces itself in the network, listened for when somebody asks. */
  let { onlook }: { onlook: (host: string, port: number) => unknown } = $props();

  let rows = $state.raw<Announced[] | undefined>();
  let listening = $state(false);
  async function listen() {
    listening = true;
    const r = await api.POST("/api/v1/announced");
    listening = false;
    if (said(r)) rows = r.data;
  }
  async function move(a: Announced) {
    if (!a.moved) return;
    const r = await api.PUT("/api/v1/devices/{id}/place", {
      params: { path: { id: a.moved.device } },
      body: { host: a.host, port: a.port },
    });
    said(r, `${a.moved.name} is at ${a.host} now.`);
    await listen();
  }
  const named = (id: string) => show.doc?.devices.find((d) => d.id === id)?.name ?? "";
</script>

<div class="all">
  <p class="quiet">
    Many devices say in the network that they are there. Synaptor listens when you ask it to, and asks nothing else.
  </p>
  <Act id="listen" disabled={listening} onclick={listen}>{listening ? "Listening …" : "Listen for devices"}</Act>
  {#each rows ?? [] as a (a.name + a.service + a.host + a.port)}
    <p data-announced={a.name}>
      <strong>{a.name}</strong> <span class="mono">{a.host}:{a.port}</span> <span class="quiet">{a.service}</span><br />
      {#if a.device}<span class="quiet">It is in the rig already, as {named(a.device)}.</span>
      {:else if a.moved}
        {a.moved.name} was at <span class="mono">{a.moved.from}</span> and answers here.
        <Act onclick={() => move(a)}>Move it here</Act>
      {:else}<Act onclick={() => onlook(a.host, a.port)}>Ask what it is</Act>{/if}
    </p>
  {/each}
  {#if rows?.length === 0}<p>Nothing has announced itself.</p>{/if}
</div>

<style>
  .all {
    display: grid;
    gap: 0.6rem;
    justify-items: start;
    padding: 0.5rem 1rem;
    border-bottom: 1px solid var(--line);
  }
</style>
