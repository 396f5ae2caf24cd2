<script lang="ts">
  import { tick } from "svelte";
  import Act from "../../parts/form/Act.svelte";
  import Rows from "../../parts/form/Rows.svelte";
  import { Button } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import { api, type Device, type LinkState, type RolledRow } from "../../api/client";
  import Glyph from "../../parts/Glyph.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { ago, clock, ms, phases } from "../../live/words.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { feed } from "../../live/feed.svelte";
  import { me } from "../../live/me.svelte";
  import { route } from "../../live/route.svelte";
  import { said, show } from "../../live/show.svelte";
  import { point } from "../../parts/point";
  import Addresses from "./Addresses.svelte";
  import Controllers from "./Controllers.svelte";
  import ControllerSheet from "./ControllerSheet.svelte";
  import DeviceSheet from "./DeviceSheet.svelte";
  import Identify from "./Identify.svelte";
  import Loose from "./Loose.svelte";
  import Readings from "./Readings.svelte";
  import SheetProblems from "./SheetProblems.svelte";
  import SafePictures from "./SafePictures.svelte";
  import Sheets from "./Sheets.svelte";
  import Spark from "./Spark.svelte";

  /** What is open: the id of a device or a controller, or "new", "look", "sheets", "readings", "here", "overlays". */
  let open = $state("");
  /** The last roll call of the devices, whoever made it. */
  const roll = $derived(feed.values.get("rolled") as RolledRow | undefined);
  let calling = $state(false);
  const devices = $derived(show.doc?.devices ?? []);
  const shown = $derived(devices.find((d) => d.id === open));
  const controller = $derived(show.doc?.controllers.find((c) => c.id === open));
  const close = () => (open = "");
  // Somebody was led to a device, a controller or the safe pictures.
  $effect(() => {
    const [, , kind, id] = route.path.split("/");
    if (!kind || !show.doc) return;
    open = kind === "overlays" ? kind : (id ?? "");
    route.settle("/rig");
    const slug = [...show.doc.devices, ...show.doc.controllers].find((d) => d.id === id)?.slug;
    void tick().then(() =>
      point(
        document.querySelector<HTMLElement>(
          kind === "safe" ? "#safe-pictures" : `[data-${kind === "controller" ? "of" : kind}="${slug}"]`,
        ),
      ),
    );
  });

  async function rollCall() {
    calling = true;
    said(await api.POST("/api/v1/rollcall"));
    calling = false;
  }
  const problemOf = (d: Device, link: LinkState | undefined) =>
    `${link?.problem || "none"}${link?.bad ? ` (${link.bad} so far)` : ""}${
      d.factory ? " Its password is the one it was delivered with." : ""
    }`;
  /** What was never measured stands after what was. */
  const latency = (d: Device, of: "medianUs" | "p95Us") => {
    const l = show.link(d.id)?.latency;
    return l?.count ? l[of] : Infinity;
  };
  const columns = [
    { text: "Device", by: (d: Device) => d.name },
    { text: "Address", by: (d: Device) => d.address },
    { text: "Link", by: (d: Device) => phases[show.link(d.id)?.phase ?? "connecting"] },
    { text: "Confirms in", numeric: true, by: (d: Device) => latency(d, "medianUs") },
    { text: "95 % within", numeric: true, by: (d: Device) => latency(d, "p95Us") },
    { text: "" },
    { text: "Last problem", wide: true, by: (d: Device) => problemOf(d, show.link(d.id)) },
    { text: "Used by", numeric: true, by: (d: Device) => d.uses.length },
  ];
  const answered = $derived(roll?.rows.filter((r) => r.answered).length ?? 0);
</script>

{#if open === "overlays"}
  {#await import("./Overlays.svelte") then { default: Overlays }}<Overlays onclose={close} />{/await}
{/if}
<div data-help="parts/devices" class="rig" class:open={open !== ""} hidden={open === "overlays"}>
  <header>
    <h1>Devices</h1>
    {#if devices.length > 0}
      <div class="tools">
        {#if me.now?.role === "owner"}<Button
            size="small"
            kind="ghost"
            id="this-synaptor"
            on:click={() => (open = "here")}>This Synaptor</Button
          >{/if}
        {#if roll}<span class="quiet" id="roll"
            >{answered} of {roll.rows.length} answered, {ago(roll.at, clock.now)} ago</span
          >{/if}
        <Button size="small" kind="ghost" id="roll-call" disabled={calling} on:click={rollCall}>Roll call</Button>
        <Button size="small" kind="ghost" id="overlays" on:click={() => (open = "overlays")}>Overlays</Button>
        <Button size="small" kind="ghost" id="all-readings" on:click={() => (open = "readings")}>Readings</Button>
        <Button size="small" id="sheets" kind="ghost" on:click={() => (open = "sheets")}>Sheets</Button>
        <Button size="small" id="look" kind="tertiary" on:click={() => (open = "look")}>Look for devices</Button>
        <Button size="small" id="add-device" icon={Add} on:click={() => (open = "new")}>Add a device</Button>
      </div>
    {/if}
  </header>
  <SheetProblems onshow={() => (open = "sheets")} />
  {#if devices.length === 0}
    <div class="empty">
      <h2>Nothing is connected yet</h2>
      <p>
        A device is one thing that is driven, such as a video switcher or a sound desk. Enter its address; Synaptor then
        says whether it answers.{#if show.doc?.bench}{" "}The bench's devices are at 127.0.0.1; look there to find them
          all.{/if}
      </p>
      <div class="ways">
        <Button icon={Add} on:click={() => (open = "new")}>Add my first device</Button>
        <Button id="look-first" kind="tertiary" on:click={() => (open = "look")}>Look for devices</Button>
        <Button kind="ghost" on:click={() => (open = "sheets")}>Device sheets</Button>
      </div>
    </div>
  {:else}
    <Rows
      label="Devices"
      {columns}
      rows={devices}
      key={(d) => d.id}
      current={open}
      look={(d) => (d.parked ? "parked" : "")}
      data-device={(d: Device) => d.slug}
    >
      {#snippet cells(d)}
        {@const link = show.link(d.id)}
        {@const called = roll?.rows.find((r) => r.device === d.id)}
        <td
          ><Act class="name" onclick={() => (open = open === d.id ? "" : d.id)}
            ><span style:color="var(--role-{d.role})"
              ><Glyph name={d.role} struck={link?.phase !== "up" && !d.parked} size={20} /></span
            ><span><strong>{d.name}</strong><small>{d.typeName}</small></span></Act
          ></td
        >
        <td class="mono">{d.address}</td>
        <td class="link"
          ><span class="phase {link?.phase ?? 'connecting'}">{phases[link?.phase ?? "connecting"]}</span>
          {#if link}<span class="mono quiet">{ago(link.since, clock.now)}</span>{/if}
          {#if called}<small class:bad={!called.answered}
              >{called.answered ? `answered in ${ms(called.tookUs)}` : "no answer to the roll call"}</small
            >{/if}</td
        >
        <td class="num mono">{link?.latency.count ? ms(link.latency.medianUs) : "–"}</td>
        <td class="num mono">{link?.latency.count ? ms(link.latency.p95Us) : "–"}</td>
        <td
          >{#if link}<Spark samples={link.recentUs} />{/if}</td
        >
        <td class="problem wide">{problemOf(d, link)}</td>
        <td class="num">{d.uses.length === 1 ? "1 key" : `${d.uses.length} keys`}</td>
      {/snippet}
    </Rows>
  {/if}
  <header class="next">
    <h1>Controllers</h1>
    {#if feed.values.get("quiet") || show.doc?.controllers.some((c) => c.links.length > 0)}
      <Tick
        id="quiet"
        label="Quiet: real controllers do nothing while a layout is changed"
        checked={feed.values.get("quiet") === true}
        onchange={async (on) => said(await api.PUT("/api/v1/quiet", { body: { on } }))}
      />
    {/if}
  </header>
  <Controllers {open} onopen={(id) => (open = open === id ? "" : id)} />
  <Loose />
  <SafePictures />
</div>
{#if open === "look"}
  <Identify onclose={close} />
{:else if open === "here"}
  <Addresses onclose={close} />
{:else if open === "sheets"}
  <Sheets onclose={close} />
{:else if open === "readings"}
  <SideSheet title="Readings of all devices" onclose={close}><Readings /></SideSheet>
{:else if controller}
  {#key open}<ControllerSheet {controller} onclose={close} />{/key}
{:else if open}
  {#key open}
    {#if shown || open === "new"}<DeviceSheet device={shown} onclose={close} />{/if}
  {/key}
{/if}

<style>
  .rig {
    height: 100%;
    box-sizing: border-box;
    overflow: auto;
    padding: 1.25rem 1.5rem;
    font-size: 0.875rem;
  }
  .open {
    padding-right: calc(420px + 1rem);
  }
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    min-height: 40px;
    margin-bottom: 0.5rem;
    flex-wrap: wrap;
    gap: 0.25rem 1rem;
  }
  .tools,
  .ways {
    display: flex;
    align-items: center;
    flex-wrap: wrap;
    gap: 0.25rem;
  }
  .open .tools {
    justify-content: flex-end;
  }
  .tools :global(.bx--btn) {
    padding-inline: 0.75rem;
    gap: 0.5rem;
  }
  .tools :global(.bx--btn__icon) {
    position: static;
  }
  #roll {
    padding: 0 0.5rem;
  }
  .open :global(.wide) {
    display: none;
  }
  .rig :global(.name) {
    display: flex;
    gap: 0.75rem;
    align-items: center;
    background: none;
    border: 0;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
    padding: 0.1rem 0;
  }
  .link small {
    margin-top: 0.3rem;
  }
  .bad {
    background: var(--alarm);
    color: var(--on-alarm);
  }
  .rig :global(.parked) {
    opacity: 0.65;
  }
  .link {
    white-space: nowrap;
  }
  .problem {
    max-width: 22rem;
    color: var(--quiet);
    font-size: 0.8125rem;
  }
  .empty {
    display: grid;
    gap: 0.9rem;
    justify-items: start;
    max-width: 40rem;
    padding: 2rem 0 3rem;
  }
  .empty h2 {
    font-size: 1.5rem;
  }
</style>
