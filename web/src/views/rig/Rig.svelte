<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import Glyph from "../../parts/Glyph.svelte";
  import { ago, clock, ms, phases } from "../../live/words.svelte";
  import { show } from "../../live/show.svelte";
  import DeviceSheet from "./DeviceSheet.svelte";

  /** The device in the side sheet; "new" for one to add. */
  let open = $state("");
  const devices = $derived(show.doc?.devices ?? []);
  const shown = $derived(devices.find((d) => d.id === open));
</script>

<div class="rig" class:open={open !== ""}>
  <header>
    <h1>Devices</h1>
    {#if devices.length > 0}
      <Button size="small" icon={Add} on:click={() => (open = "new")}>Add a device</Button>
    {/if}
  </header>
  {#each show.doc?.sheetProblems ?? [] as p (p.file)}
    <p class="sheet-problem">
      The sheet <span class="mono">{p.file}</span> was left out. Line {p.line}: {p.reason}
    </p>
  {/each}
  {#if devices.length === 0}
    <div class="empty">
      <h2>Nothing is connected yet</h2>
      <p>
        A device is one thing that is driven, such as a video switcher. Enter its address; Synaptor then says whether it
        answers.{#if show.doc?.bench}
          The bench's switcher is at 127.0.0.1, port 7431.{/if}
      </p>
      <Button icon={Add} on:click={() => (open = "new")}>Add my first device</Button>
    </div>
  {:else}
    <table>
      <thead>
        <tr>
          <th>Device</th><th>Address</th><th>Link</th><th class="num">Confirms in (median)</th><th class="num"
            >95 % within</th
          ><th>Last problem</th><th class="num">Used by</th>
        </tr>
      </thead>
      <tbody>
        {#each devices as d (d.id)}
          {@const link = show.link(d.id)}
          <tr class:current={open === d.id} data-device={d.slug}>
            <td
              ><button class="name" onclick={() => (open = d.id)}
                ><span style:color="var(--role-{d.role})"
                  ><Glyph name={d.role} struck={link?.phase !== "up"} size={20} /></span
                ><span><strong>{d.name}</strong><small>{d.typeName}</small></span></button
              ></td
            >
            <td class="mono">{d.address}</td>
            <td class="link"
              ><span class="phase {link?.phase ?? 'connecting'}">{phases[link?.phase ?? "connecting"]}</span>
              {#if link}<span class="mono quiet">{ago(link.since, clock.now)}</span>{/if}</td
            >
            <td class="num mono">{link?.latency.count ? ms(link.latency.medianUs) : "–"}</td>
            <td class="num mono">{link?.latency.count ? ms(link.latency.p95Us) : "–"}</td>
            <td class="problem">{link?.problem || "none"}{link?.bad ? ` (${link.bad} so far)` : ""}</td>
            <td class="num">{d.uses.length === 1 ? "1 key" : `${d.uses.length} keys`}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <h1>Controllers</h1>
  {#each show.doc?.controllers ?? [] as c (c.id)}
    <p class="controller">
      <strong>{c.name}</strong>
      {c.columns} by {c.rows} keys, as a panel at
      <a href="/panel/{c.slug}" target="_blank" rel="noreferrer">/panel/{c.slug}</a>, by HTTP at
      <span class="mono">/api/v1/input/{c.slug}/…</span>, by OSC to
      <span class="mono">{show.doc?.oscIn}</span>
      <span class="mono">/synaptor/{c.slug}/…</span>
    </p>
  {:else}
    <p class="quiet">None yet. Patch offers the first one.</p>
  {/each}
</div>
{#if open}
  {#key open}
    <DeviceSheet device={shown} onclose={() => (open = "")} />
  {/key}
{/if}

<style>
  .rig {
    padding: 1.25rem 1.5rem;
    font-size: 0.875rem;
  }
  .open {
    padding-right: calc(400px + 1.5rem);
  }
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    min-height: 40px;
    margin-bottom: 0.75rem;
  }
  h1 {
    font-size: 1.125rem;
    font-weight: 600;
  }
  table {
    width: 100%;
    border-collapse: collapse;
    margin-bottom: 2rem;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--quiet);
    padding: 0.4rem 0.75rem;
    font-size: 0.8125rem;
    vertical-align: bottom;
  }
  td {
    padding: 0.5rem 0.75rem;
    border-top: 1px solid var(--line);
    vertical-align: middle;
  }
  .num {
    text-align: right;
  }
  .name {
    display: flex;
    gap: 0.75rem;
    align-items: center;
    background: none;
    border: 0;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
    padding: 0.2rem 0;
  }
  .name small {
    display: block;
    color: var(--quiet);
  }
  .name strong {
    overflow-wrap: anywhere;
  }
  .current td {
    background: #1c2126;
  }
  .phase {
    padding: 0.1rem 0.45rem;
    border-radius: 3px;
    border: 1px solid var(--line);
    margin-right: 0.3rem;
    white-space: nowrap;
  }
  .phase.down {
    background: #fff;
    color: #000;
    font-weight: 600;
  }
  .phase.connecting,
  .phase.syncing {
    border-style: dashed;
  }
  .link {
    white-space: nowrap;
  }
  .problem {
    max-width: 22rem;
    color: var(--quiet);
    font-size: 0.8125rem;
  }
  .sheet-problem {
    border-left: 3px solid var(--finding);
    padding: 0.4rem 0.75rem;
    margin-bottom: 0.75rem;
    background: #1c2024;
  }
  .empty {
    display: grid;
    gap: 0.9rem;
    justify-items: start;
    max-width: 36rem;
    padding: 2rem 0 3rem;
  }
  .empty h2 {
    font-size: 1.5rem;
  }
  .controller {
    margin-top: 0.5rem;
    line-height: 1.7;
  }
  .controller a {
    color: #8fd6e0;
  }
</style>
