<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { Button, Checkbox, InlineLoading, TextInput } from "carbon-components-svelte";
  import { api, fieldsOf, type Found, type Problem } from "../../api/client";
  import Glyph from "../../parts/Glyph.svelte";
  import Announced from "./Announced.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { said } from "../../live/show.svelte";

  /** Asks one address what answers there, and adds what is ticked, all at once. */
  let { onclose }: { onclose: () => void } = $props();

  type Row = Found & { ticked: boolean; password: string; wrong: string };
  let host = $state("");
  let port = $state<number | null>(null);
  let rows = $state<Row[] | undefined>();
  let looking = $state(false);
  let fields = $state<Record<string, string>>({});
  let problem = $state("");
  const ticked = $derived(rows?.filter((r) => r.ticked) ?? []);

  function failed(error: Problem | undefined): boolean {
    fields = fieldsOf(error);
    problem = error?.detail ?? "";
    return !!error;
  }

  async function look(e?: SubmitEvent) {
    e?.preventDefault();
    looking = true;
    rows = undefined;
    const { data, error } = await api.POST("/api/v1/identify", {
      body: { host: host.trim(), port: port ?? undefined },
    });
    looking = false;
    if (!failed(error))
      rows = (data ?? []).map((f) => ({ ...f, ticked: !f.known && !f.moved, password: "", wrong: "" }));
  }

  async function move(r: Row) {
    if (!r.moved) return;
    const { error } = await api.PUT("/api/v1/devices/{id}/place", {
      params: { path: { id: r.moved.device } },
      body: { host: host.trim(), port: r.port },
    });
    if (said(error ? { error } : {}, `${r.moved.name} is at ${host.trim()} now.`)) onclose();
  }

  async function add() {
    const { data, error } = await api.POST("/api/v1/devices/all", {
      body: {
        devices: ticked.map((r) => ({
          name: r.name,
          type: r.type,
          host: host.trim(),
          port: r.port,
          user: r.user || undefined,
          password: r.password || undefined,
        })),
      },
    });
    failed(error);
    if (data) {
      said({}, data.ids.length === 1 ? "The device is added." : `${data.ids.length} devices are added.`);
      onclose();
    }
  }
</script>

<SideSheet title="Look for devices" {onclose}>
  <Announced
    onlook={(at, only) => {
      [host, port] = [at, only];
      void look();
    }}
  />
  <form class="fields" onsubmit={look}>
    <p class="quiet">
      Synaptor asks this one computer, on the usual ports of the devices it knows, what answers there. It looks nowhere
      else.
    </p>
    <div class="address">
      <Text id="look-host" label="Address" placeholder="127.0.0.1" bind:value={host} error={fields.host} />
      <Amount id="look-port" label="Port, if just one" bind:value={port} error={fields.port} />
    </div>
    <div><Button size="small" type="submit" disabled={looking || !host.trim()}>Look</Button></div>
  </form>
  {#if looking}
    <div class="wait"><InlineLoading description="Asking …" /></div>
  {:else if rows && rows.length === 0}
    <p class="none">
      Nothing that Synaptor knows answers there. Is it switched on? Gear without a way to say what it is can be added by
      hand, with one of the plain sheets.
    </p>
  {:else if rows}
    <ul>
      {#each rows as r (r.type + r.port)}
        <li data-found={r.type}>
          <div class="what">
            <Checkbox bind:checked={r.ticked} labelText="" aria-label="Add {r.title}" />
            <span style:color="var(--role-{r.role})"><Glyph name={r.role} size={20} /></span>
            <span
              ><strong>{r.model || r.title}</strong><small
                >{r.title}, port {r.port}{r.version && !r.model.includes(r.version)
                  ? `, version ${r.version}`
                  : ""}</small
              ></span
            >
          </div>
          {#if r.known}<p class="quiet">It is in the rig already, as {r.known}.</p>{/if}
          {#if r.moved}
            <p>
              {r.moved.name} was at <span class="mono">{r.moved.from}</span>, and this is the same one.
              <Act onclick={() => move(r)}>Move it here</Act>
            </p>
          {/if}
          {#if r.note && !r.locked}<p class="wrong">{r.note}</p>{/if}
          {#if r.ticked}
            <div class="new">
              <Text label="Name" bind:value={r.name} />
              {#if r.locked && r.user}<Text label="User name" bind:value={r.user} />{/if}
              {#if r.locked}<TextInput
                  size="sm"
                  type="password"
                  autocomplete="off"
                  labelText="Password or token"
                  bind:value={r.password}
                />{/if}
            </div>
          {/if}
        </li>
      {/each}
    </ul>
    {#if problem}<p class="none wrong">{problem}</p>{/if}
    <div class="add">
      <Button size="small" disabled={ticked.length === 0} on:click={add}
        >{ticked.length === 0 ? "Add" : ticked.length === 1 ? "Add it" : `Add these ${ticked.length}`}</Button
      >
    </div>
  {/if}
</SideSheet>

<style>
  .address {
    display: grid;
    grid-template-columns: 1fr 8.5rem;
    gap: 0.75rem;
    align-items: start;
  }
  .wait,
  .none,
  .add {
    padding: 0 1rem 1rem;
  }
  ul {
    padding: 0 1rem;
  }
  li {
    border-top: 1px solid var(--line);
    padding: 0.6rem 0;
    display: grid;
    gap: 0.4rem;
  }
  .what {
    display: grid;
    grid-template-columns: auto auto 1fr;
    gap: 0.6rem;
    align-items: center;
  }
  small {
    display: block;
    color: var(--quiet);
  }
  .new {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(7rem, 1fr));
    gap: 0.5rem;
  }
  .add {
    padding-top: 0.75rem;
  }
</style>
