<script lang="ts">
  import { Button, NumberInput, Select, SelectItem, TextInput } from "carbon-components-svelte";
  import { api, fieldsOf, type Device, type Problem, type Reading } from "../../api/client";
  import { ago, clock } from "../../live/words.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";

  /** Edits a device, or adds one when none is given. */
  let { device, onclose }: { device: Device | undefined; onclose: () => void } = $props();

  // The sheet is made anew for every device, so its fields begin with that device's values.
  const before = (() => device)();
  const types = $derived(show.doc?.deviceTypes ?? []);
  let name = $state(before?.name ?? "");
  let type = $state(before?.type ?? show.doc?.deviceTypes[0]?.type ?? "");
  let host = $state(before?.host ?? "");
  let port = $state<number | null>(before?.port ?? show.doc?.deviceTypes[0]?.port ?? null);
  let fields = $state<Record<string, string>>({});
  let problem = $state("");
  let removing = $state(false);
  let busy = $state(false);

  // A type brings its usual port along.
  let portOf = (() => type)();
  $effect(() => {
    if (device || type === portOf) return;
    portOf = type;
    port = types.find((t) => t.type === type)?.port ?? port;
  });

  const link = $derived(device && show.link(device.id));
  const readings = $derived(
    device
      ? [...feed.values.entries()]
          .filter(([k]) => k.startsWith(`reading/${device.id}:`))
          .map(([, v]) => v as Reading)
          .sort((a, b) => a.path.localeCompare(b.path, "en", { numeric: true }))
      : [],
  );
  $effect(() => {
    feed.follow("sheet", device ? [`readings:${device.id}`] : []);
    return () => feed.follow("sheet", []);
  });

  function failed(error: Problem | undefined): boolean {
    fields = fieldsOf(error);
    problem = error && Object.keys(fields).length === 0 ? error.detail : "";
    return !!error;
  }

  async function save() {
    busy = true;
    const body = { name, type, host: host.trim(), port: port ?? 0 };
    try {
      if (device) {
        const { error } = await api.PUT("/api/v1/devices/{id}", {
          params: { path: { id: device.id } },
          body: { ...body, rev: device.rev, frameRate: device.frameRate },
        });
        if (!failed(error)) said({}, `${name} is saved.`);
      } else {
        const { error } = await api.POST("/api/v1/devices", { body });
        if (!failed(error)) onclose();
      }
    } catch {
      problem = "Synaptor does not answer. Nothing was saved.";
    }
    busy = false;
  }

  async function remove() {
    if (!device) return;
    const r = await api.DELETE("/api/v1/devices/{id}", { params: { path: { id: device.id } } });
    if (said(r, `${device.name} is removed. Ctrl+Z brings it back.`)) onclose();
  }
</script>

<svelte:window onkeydown={(e) => e.key === "Escape" && (e.preventDefault(), onclose())} />

<aside aria-label={device ? device.name : "Add a device"}>
  <header>
    <h2>{device ? device.name : "Add a device"}</h2>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
  </header>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <Select
      id="device-type"
      labelText="What it is"
      bind:selected={type}
      invalid={!!fields.type}
      invalidText={fields.type}
    >
      {#each types as t (t.type)}<SelectItem value={t.type} text={t.title} />{/each}
    </Select>
    <TextInput
      id="device-name"
      labelText="Name"
      placeholder="Dome switcher"
      bind:value={name}
      invalid={!!fields.name}
      invalidText={fields.name}
    />
    <div class="address">
      <TextInput
        id="device-host"
        labelText="Address"
        placeholder="127.0.0.1"
        bind:value={host}
        invalid={!!fields.host}
        invalidText={fields.host}
      />
      <NumberInput
        id="device-port"
        labelText="Port"
        hideSteppers
        allowEmpty
        bind:value={port}
        invalid={!!fields.port}
        invalidText={fields.port}
      />
    </div>
    {#if problem}<p class="wrong">{problem}</p>{/if}
    <div class="buttons">
      <Button type="submit" size="small" disabled={busy}>{device ? "Save" : "Add"}</Button>
      {#if device && !removing}<Button kind="ghost" size="small" on:click={() => (removing = true)}>Remove …</Button
        >{/if}
    </div>
  </form>
  {#if device && removing}
    <div class="removing">
      <p>
        {device.uses.length === 0
          ? "Nothing uses it."
          : `${device.uses.length} keys use it. They stay where they are, and say that it is gone.`}
      </p>
      <Button kind="danger" size="small" on:click={remove}>Remove {device.name}</Button>
      <Button kind="ghost" size="small" on:click={() => (removing = false)}>Keep it</Button>
    </div>
  {/if}
  {#if device && link}
    <section>
      <h3>What it answered</h3>
      <p>{link.found || "Nothing yet."}</p>
      {#if link.problem}
        <p class="quiet">{link.phase === "up" ? "Last problem: " : ""}{link.problem}</p>
      {/if}
      {#if link.phase === "down"}
        <p class="quiet">
          Away for {ago(link.since, clock.now)}. Synaptor keeps trying and notices at once when it is back.
        </p>
      {/if}
    </section>
    <section>
      <h3>Readings, live ({readings.length})</h3>
      <dl>
        {#each readings as r (r.path)}
          <dt class="mono" title={r.title}>{r.path}</dt>
          <dd class:unknown={r.quality === "unknown"}>{r.word}{r.quality === "confirmed" ? "" : ` · ${r.quality}`}</dd>
        {:else}
          <dt class="quiet">None yet: the device has not answered.</dt>
        {/each}
      </dl>
    </section>
  {/if}
</aside>

<style>
  aside {
    position: absolute;
    inset: 0 0 0 auto;
    width: 400px;
    background: #15181b;
    border-left: 1px solid var(--line);
    overflow: auto;
    font-size: 0.8125rem;
  }
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    padding: 0.4rem 0.4rem 0.4rem 1rem;
  }
  h2 {
    font-size: 1rem;
    overflow-wrap: anywhere;
  }
  h3 {
    font-size: 0.8125rem;
    color: var(--quiet);
    font-weight: 400;
    margin-bottom: 0.3rem;
  }
  form,
  .removing {
    display: grid;
    gap: 1rem;
    padding: 0.5rem 1rem 1rem;
  }
  .removing {
    gap: 0.5rem;
    justify-items: start;
    border-left: 3px solid var(--finding);
    margin: 0 1rem 1rem;
    padding: 0.5rem 0.75rem;
  }
  .address {
    display: grid;
    grid-template-columns: 1fr 7.5rem;
    gap: 0.75rem;
    align-items: start;
  }
  .buttons {
    display: flex;
    gap: 0.5rem;
  }
  section {
    padding: 0.75rem 1rem;
    border-top: 1px solid var(--line);
  }
  p {
    font-size: inherit;
    margin: 0.15rem 0;
  }
  dl {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 0.2rem 0.75rem;
    margin: 0;
  }
  dt {
    overflow-wrap: anywhere;
    font-size: 0.75rem;
    color: var(--quiet);
  }
  dd {
    margin: 0;
    text-align: right;
  }
  .unknown {
    color: var(--quiet);
  }
  .wrong {
    color: var(--finding);
  }
</style>
