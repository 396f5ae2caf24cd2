<script lang="ts">
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { Button, InlineLoading, PasswordInput } from "carbon-components-svelte";
  import { api, fieldsOf, type Device, type Problem, type Tested } from "../../api/client";
  import { said, show } from "../../live/show.svelte";

  /** The fields of a device, or of one to add. It is made anew for every device. */
  let { device, onadded }: { device: Device | undefined; onadded: () => void } = $props();

  const before = (() => device)();
  const types = $derived(show.doc?.deviceTypes ?? []);
  const roleNames: Record<string, string> = {
    streaming: "Streaming software",
    switcher: "Video switcher",
    sound: "Audio mixer",
    intercom: "Intercom",
    lights: "Lights",
    camera: "Camera head",
    player: "Player",
    chat: "Chat and stream service",
    titles: "Titles",
    slides: "Slides",
    prompter: "Prompter",
    meeting: "Meeting",
    music: "Music",
    computer: "Workstation",
    other: "Something else",
  };
  /** The roles that there are sheets for, those that most shows begin with first. */
  const roles = $derived(Object.keys(roleNames).filter((r) => types.some((t) => t.role === r)));
  const first = (() => types.find((t) => t.type === before?.type) ?? types.find((t) => t.role === roles[0]))();
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
    if (fields.password) typing = true;
    problem = error && Object.keys(fields).length === 0 ? error.detail : "";
    return !!error;
  }

  const role = $derived(sheet?.role ?? "");

  const entered = () => ({
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
  });

  /** What came of trying it out as it stands here. */
  let tested = $state.raw<Tested | undefined>();
  let testing = $state(false);

  async function test() {
    testing = true;
    const { data, error } = await api.POST("/api/v1/devices/test", {
      body: { ...entered(), name: name.trim() || (sheet?.name ?? ""), id: device?.id },
    });
    failed(error);
    tested = data;
    testing = false;
  }

  async function save() {
    busy = true;
    const body = entered();
    if (device) {
      const { error } = await api.PUT("/api/v1/devices/{id}", {
        params: { path: { id: device.id } },
        body: { ...body, rev: device.rev },
      });
      if (!failed(error)) {
        said({}, `${body.name} is saved.`);
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
  class="fields"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  {#if !device}
    <Choice
      id="device-role"
      label="What it does"
      value={role}
      choices={roles.map((r) => ({ value: r, text: roleNames[r] ?? r }))}
      onchange={(to) => (type = types.find((t) => t.role === to)?.type ?? type)}
    />
  {/if}
  <Choice
    id="device-type"
    label="What it is"
    bind:value={type}
    error={fields.type}
    choices={(device ? types : types.filter((t) => t.role === role)).map((t) => ({ value: t.type, text: t.title }))}
  />
  {#if !device && sheet?.letIn}
    <p class="hint"><b>Before:</b> {sheet.letIn}</p>
  {/if}
  {#if !sheet?.local}
    <div class="address">
      <Text
        id="device-host"
        label="Address"
        placeholder={show.doc?.bench ? "127.0.0.1" : "192.168.…, or a name"}
        bind:value={host}
        error={fields.host}
      />
      <Amount id="device-port" label="Port" bind:value={port} error={fields.port} />
    </div>
  {/if}
  <Text id="device-name" label="Name" placeholder={sheet?.name ?? ""} bind:value={name} error={fields.name} />
  {#if login === "basic" || login === "password"}
    <Text id="device-user" label="User name" placeholder={sheet?.user ?? ""} bind:value={user} error={fields.user} />
  {/if}
  {#if login !== "none"}
    {#if typing}
      <PasswordInput
        id="device-password"
        size="sm"
        labelText={login === "bearer" ? "Token" : "Password"}
        autocomplete="off"
        bind:value={password}
        invalid={!!fields.password}
        invalidText={fields.password ?? ""}
      />
    {:else}
      <p class="quiet">
        {login === "bearer" ? "A token" : "A password"} is set. It is stored encrypted and never shown.
        <Act id="enter-again" onclick={() => (typing = true)}>Enter it again</Act>
      </p>
    {/if}
    {#if device?.factory}<p class="wrong">This is the password it was delivered with. Anybody may know it.</p>{/if}
  {/if}
  {#if sheet?.canSecure}<Tick id="device-secure" label="Encrypted (TLS)" bind:checked={secure} />{/if}
  {#if device && device.models.length > 0}
    <Choice
      id="device-model"
      label="Model"
      bind:value={model}
      error={fields.model}
      choices={[
        { value: "", text: "as it says itself" },
        ...device.models.map((m) => ({ value: m.id, text: m.title })),
      ]}
    />
  {/if}
  {#if device}
    <Amount
      id="device-latency"
      label="Latency, where it is not measured"
      unit="ms"
      help="How long until a command shows. Macros count with it until the device reports something."
      bind:value={latency}
      error={fields.latencyMs}
    />
  {/if}
  {#if problem}<p class="wrong">{problem}</p>{/if}
  <div class="buttons">
    <Button type="submit" size="small" disabled={busy}>{device ? "Save" : "Add"}</Button>
    {#if !sheet?.local}
      <Button kind="ghost" size="small" id="device-test" disabled={testing} on:click={test}>Test</Button>
    {/if}
    {#if testing}<InlineLoading description="Asking …" />{/if}
  </div>
  {#if tested && !testing}
    <p class="tested" class:wrong={!tested.answers} role="status">{tested.text}</p>
  {/if}
</form>

<style>
  .address {
    display: grid;
    grid-template-columns: 1fr 7.5rem;
    gap: 0.75rem;
    align-items: start;
  }
  .hint {
    border-left: 3px solid var(--edge);
    padding-left: 0.75rem;
    color: var(--quiet);
  }
</style>
