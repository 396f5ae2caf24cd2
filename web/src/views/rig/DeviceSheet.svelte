<script lang="ts">
  import Parts from "../../parts/form/Parts.svelte";
  import { Button, TextInput } from "carbon-components-svelte";
  import { api, fieldsOf, type Choice, type Device, type DeviceEvent } from "../../api/client";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { ago, clock, timeOfDay } from "../../live/words.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import DeviceForm from "./DeviceForm.svelte";
  import Pictures from "./Pictures.svelte";
  import Readings from "./Readings.svelte";
  import TryAction from "./TryAction.svelte";
  import Wire from "./Wire.svelte";

  /** One device, or one to add. */
  let { device, onclose }: { device: Device | undefined; onclose: () => void } = $props();

  const parts = { link: "Link", readings: "Readings", try: "Try", wire: "Wire", pictures: "Pictures" } as const;
  let part = $state<keyof typeof parts>("link");
  let removing = $state(false);
  let pictures = $state.raw<Choice[]>([]);
  let title = $state("");
  let fields = $state<Record<string, string>>({});

  const link = $derived(device && show.link(device.id));
  const events = $derived(device ? ((feed.values.get(`events/${device.id}`) as DeviceEvent[] | undefined) ?? []) : []);
  const shownParts = $derived(
    (Object.keys(parts) as (keyof typeof parts)[]).filter((p) => p !== "pictures" || pictures.length > 0),
  );

  $effect(() => {
    feed.follow("sheet", device ? [`events:${device.id}`] : []);
    return () => feed.follow("sheet", []);
  });
  $effect(() => {
    void link?.phase;
    if (!device) return;
    void api
      .GET("/api/v1/devices/{id}/pictures", { params: { path: { id: device.id } } })
      .then(({ data }) => (pictures = data ?? []));
  });

  const at = $derived({ params: { path: { id: device?.id ?? "" } } });

  async function remove() {
    const name = device?.name;
    const r = await api.DELETE("/api/v1/devices/{id}", at);
    if (said(r, `${name} is removed. Ctrl+Z brings it back.`)) onclose();
  }

  async function park() {
    said(await api.PUT("/api/v1/devices/{id}/parked", { ...at, body: { parked: !device?.parked } }));
  }

  async function duplicate() {
    said(await api.POST("/api/v1/devices/{id}/duplicate", at), "The copy is parked; give it its own address.");
  }

  async function reconnect() {
    said(await api.POST("/api/v1/devices/{id}/reconnect", at));
  }

  async function makeSheet(e: SubmitEvent) {
    e.preventDefault();
    const { data, error } = await api.POST("/api/v1/devices/{id}/sheet", { ...at, body: { title } });
    fields = fieldsOf(error);
    if (data) said({}, `The sheet ${title} is made, and ${device?.name} uses it.`);
    else if (error && !fields.title) said({ error });
  }
</script>

<SideSheet title={device ? device.name : "Add a device"} {onclose}>
  {#if !device}
    <DeviceForm device={undefined} onadded={onclose} />
  {:else}
    {#if link}
      <div class="state" class:away={link.phase === "down" || link.phase === "locked"}>
        {#if link.phase === "up"}
          <p>
            {link.found || "Connected. Nothing tells what it is."}{link.summary
              ? `: ${link.summary}`
              : ""}{link.version && !link.found?.includes(link.version) ? `; version ${link.version}` : ""}
          </p>
          {#if link.problem}<p class="quiet">Last problem: {link.problem}</p>{/if}
        {:else if link.phase === "parked"}
          <p>It is parked: no link, no alarm. Its keys stay.</p>
        {:else if link.phase === "down" || link.phase === "locked"}
          <p>{link.problem}</p>
          <p>Away for {ago(link.since, clock.now)}. {link.summary ? `Last known: ${link.summary}.` : ""}</p>
        {:else}
          <p>Connecting …</p>
        {/if}
      </div>
    {/if}
    <div class="buttons">
      {#if link?.phase === "down" || link?.phase === "locked"}
        <Button id="reconnect" size="small" kind="tertiary" on:click={reconnect}>Reconnect now</Button>
      {/if}
      <Button id="park" size="small" kind="ghost" on:click={park}>{device.parked ? "Connect" : "Park"}</Button>
      <Button id="duplicate" size="small" kind="ghost" on:click={duplicate}>Duplicate</Button>
      <Button id="remove" size="small" kind="ghost" on:click={() => (removing = !removing)}>Remove …</Button>
    </div>
    {#if removing}
      <div class="removing">
        {#if device.uses.length === 0}
          <p>Nothing uses it.</p>
        {:else}
          <p>{device.uses.length} keys use it. They stay where they are, and say that it is gone:</p>
          <p class="quiet">{device.uses.slice(0, 12).join(", ")}{device.uses.length > 12 ? " …" : ""}</p>
        {/if}
        <div>
          <Button kind="danger" size="small" on:click={remove}>Remove {device.name}</Button>
          <Button kind="ghost" size="small" on:click={() => (removing = false)}>Keep it</Button>
        </div>
      </div>
    {/if}
    <Parts parts={shownParts.map((p) => ({ id: p, text: parts[p] }))} bind:value={part} />
    {#if part === "link"}
      <DeviceForm {device} onadded={onclose} />
      {#if device.plain}
        <form class="own" onsubmit={makeSheet}>
          <p class="quiet">
            The messages that keys send to it by hand can become a device sheet of its own, to be named, explained and
            used again.
          </p>
          <TextInput
            id="sheet-title"
            labelText="Make a sheet of this"
            placeholder="Fog machine"
            bind:value={title}
            invalid={!!fields.title}
            invalidText={fields.title}
          />
          <div><Button size="small" kind="tertiary" type="submit">Make the sheet</Button></div>
        </form>
      {/if}
      {#if events.length > 0}
        <section>
          <h3>What happened there</h3>
          {#each events as e, i (i)}
            <p>
              <span class="mono quiet">{timeOfDay(e.at)}</span>
              {e.title} <span class="quiet">{ago(e.at, clock.now)} ago</span>
            </p>
          {/each}
        </section>
      {/if}
    {:else if part === "readings"}
      <Readings device={device.id} />
    {:else if part === "try"}
      <TryAction {device} />
    {:else if part === "wire"}
      <Wire device={device.id} />
    {:else}
      <Pictures {device} sources={pictures} />
    {/if}
  {/if}
</SideSheet>

<style>
  .state {
    margin: 0 1rem 0.5rem;
  }
  .away {
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0.4rem 0.6rem;
  }
  p {
    margin: 0.1rem 0;
  }
  .buttons {
    display: flex;
    padding: 0 0.5rem;
    flex-wrap: wrap;
  }
  .removing {
    display: grid;
    gap: 0.4rem;
    border-left: 3px solid var(--finding);
    margin: 0.5rem 1rem;
    padding: 0.5rem 0.75rem;
  }
  h3 {
    font-size: 0.8125rem;
    color: var(--quiet);
    font-weight: 400;
  }
  section,
  .own {
    padding: 0.75rem 1rem;
    border-top: 1px solid var(--line);
  }
  .own {
    display: grid;
    gap: 0.75rem;
  }
</style>
