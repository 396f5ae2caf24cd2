<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import {
    Button,
    Checkbox,
    NumberInput,
    PasswordInput,
    Select,
    SelectItem,
    TextInput,
  } from "carbon-components-svelte";
  import { api, fieldsOf, type Device, type Problem } from "../../api/client";
  import { said, show } from "../../live/show.svelte";

  /** The fields of a device, or of one to add. It is made anew for every device. */
  let { device, onadded }: { device: Device | undefined; onadded: () => void } = $props();

  const before = (() => device)();
  const types = $derived(show.doc?.deviceTypes ?? []);
  const first = (() => types.find((t) => t.type === before?.type) ?? types.find((t) => t.role !== "other"))();
  let name = $state(before?.name ?? "");
  let type = $state(first?.type ?? "");
  let host = $state(before?.host ?? "");
  let latency = $state<number | null>((() => before?.latencyMs || null)());
  let port = $state<number | null>(before?.port ?? first?.port ?? null);
  let user = $state(before?.user ?? "");
  let secure = $state(before?.secure ?? false);
  let model = $state(before?.model ?? "");
  let password = $state("");
  /** A password is only sent when one was typed; the one that is set is never shown. */
  let typing = $state(!before?.hasPassword);
  let fields = $state<Record<string, string>>({});
  let problem = $state("");
  let busy = $state(false);

  const sheet = $derived(types.find((t) => t.type === type));
  const login = $derived(sheet?.login ?? "none");

  // A type brings its usual port along.
  let portOf = (() => type)();
  $effect(() => {
    if (type === portOf) return;
    portOf = type;
    port = sheet?.port ?? port;
    model = "";
  });

  function failed(error: Problem | undefined): boolean {
    fields = fieldsOf(error);
    problem = error && Object.keys(fields).length === 0 ? error.detail : "";
    return !!error;
  }

  async function save() {
    busy = true;
    const body = {
      name,
      type,
      host: host.trim(),
      port: port ?? 0,
      user: user.trim() || undefined,
      secure: secure || undefined,
      model: model || undefined,
      password: typing && password !== "" ? password : undefined,
      frameRate: device?.frameRate,
      latencyMs: latency ?? undefined,
    };
    if (device) {
      const { error } = await api.PUT("/api/v1/devices/{id}", {
        params: { path: { id: device.id } },
        body: { ...body, rev: device.rev },
      });
      if (!failed(error)) {
        said({}, `${name} is saved.`);
        typing = typing && password === "" && !device.hasPassword;
        password = "";
      }
    } else {
      const { error } = await api.POST("/api/v1/devices", { body });
      if (!failed(error)) onadded();
    }
    busy = false;
  }
</script>

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
  {#if !sheet?.local}
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
  {/if}
  {#if login === "basic" || login === "password"}
    <TextInput
      id="device-user"
      labelText="User name"
      placeholder={sheet?.user}
      bind:value={user}
      invalid={!!fields.user}
      invalidText={fields.user}
    />
  {/if}
  {#if login !== "none"}
    {#if typing}
      <PasswordInput
        id="device-password"
        labelText={login === "bearer" ? "Token" : "Password"}
        autocomplete="off"
        bind:value={password}
        invalid={!!fields.password}
        invalidText={fields.password}
      />
    {:else}
      <p class="set">
        {login === "bearer" ? "A token" : "A password"} is set. It is stored encrypted and never shown.
        <Act id="enter-again" onclick={() => (typing = true)}>Enter it again</Act>
      </p>
    {/if}
    {#if device?.factory}<p class="note">This is the password it was delivered with. Anybody may know it.</p>{/if}
  {/if}
  {#if sheet?.canSecure}<Checkbox id="device-secure" labelText="Encrypted (TLS)" bind:checked={secure} />{/if}
  {#if device && device.models.length > 0}
    <Select
      id="device-model"
      labelText="Model"
      bind:selected={model}
      invalid={!!fields.model}
      invalidText={fields.model}
    >
      <SelectItem value="" text="as it says itself" />
      {#each device.models as m (m.id)}<SelectItem value={m.id} text={m.title} />{/each}
    </Select>
  {/if}
  {#if device}
    <NumberInput
      id="device-latency"
      labelText="Latency in ms, where it is not measured"
      helperText="How long until a command shows. Macros count with it until the device reports something."
      hideSteppers
      allowEmpty
      bind:value={latency}
      invalid={!!fields.latencyMs}
      invalidText={fields.latencyMs}
    />
  {/if}
  {#if problem}<p class="note">{problem}</p>{/if}
  <div><Button type="submit" size="small" disabled={busy}>{device ? "Save" : "Add"}</Button></div>
</form>

<style>
  form {
    display: grid;
    gap: 0.9rem;
    padding: 0.5rem 1rem 1rem;
  }
  .address {
    display: grid;
    grid-template-columns: 1fr 7.5rem;
    gap: 0.75rem;
    align-items: start;
  }
  p {
    font-size: inherit;
    margin: 0;
  }
  .set {
    color: var(--quiet);
  }
  .note {
    color: var(--finding);
  }
</style>
