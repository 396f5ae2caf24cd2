<script lang="ts">
  import { api, fieldsOf, type ActionDoc, type NamedValue, type Reading, type Reflex } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import ParamFields from "../../parts/ParamFields.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { said, show } from "../../live/show.svelte";

  /** A reflex as a sentence with blanks: on an event, provided a condition, then a response, no more often than a time, never while something is so. */
  let { reflex, onsaved }: { reflex: Reflex | undefined; onsaved: (id: string) => unknown } = $props();

  const was = (() => reflex)();
  type Kind = Reflex["on"]["kind"];
  let name = $state(was?.name ?? "");
  let kind = $state<Kind>(was?.on.kind ?? "reading");
  let device = $state(was?.on.device ?? "");
  let path = $state(was?.on.path ?? "");
  let edge = $state(was?.on.edge ?? "becomes");
  let value = $state(was?.on.value ?? "");
  let level = $state<number | null>(was?.on.level ?? null);
  let back = $state<number | null>(was?.on.back ?? null);
  let seconds = $state<number | null>(was?.on.forMs ? was.on.forMs / 1000 : null);
  let event = $state(was?.on.event ?? "");
  let when = $state(was?.when ?? "");
  let unless = $state(was?.unless ?? "");
  let every = $state<number | null>(was?.everyMs ? was.everyMs / 1000 : null);
  let per = $state(was?.per ?? "");
  let beyond = $state(was?.beyond ?? "");
  let length = $state<number | null>(was?.length ?? null);
  let does = $state(was?.then.device ?? "");
  let actionId = $state(was?.then.action ?? "");
  let values = $state<Record<string, string>>({ ...(was?.then.params ?? {}) });
  let errors = $state<Record<string, string>>({});

  const kinds: { value: Kind; text: string }[] = [
    { value: "reading", text: "A reading does something" },
    { value: "link", text: "A device comes back, or goes" },
    { value: "device", text: "A device tells of something" },
  ];
  const edges = [
    { value: "becomes", text: "becomes" },
    { value: "leaves", text: "is not any more" },
    { value: "changes", text: "changes" },
    { value: "rises", text: "rises to" },
    { value: "falls", text: "falls to" },
  ];
  const links = [
    { value: "comes", text: "answers again" },
    { value: "goes", text: "does not answer any more" },
  ];
  const choose = { value: "", text: "Choose …" };
  const devices = $derived(show.doc?.devices ?? []);
  const own = { value: "synaptor", text: "Synaptor" };
  const named = $derived(devices.map((d) => ({ value: d.id, text: d.name })));

  const readings = new Answer<Reading[]>();
  const possible = new Answer<{ values: NamedValue[]; number: boolean }>();
  const actions = new Answer<ActionDoc[]>();
  interface SheetEvent {
    id: string;
    title: string;
    fields?: Record<string, string>;
  }
  const sheets = new Answer<{ events?: SheetEvent[] }>();
  const type = $derived(devices.find((d) => d.id === device)?.type ?? "");
  $effect(() => {
    if (kind === "reading" && device)
      void readings.ask(device, () => api.GET("/api/v1/readings", { params: { query: { device } } }));
  });
  $effect(() => {
    if (kind === "reading" && device && path)
      void possible.ask(`${device}:${path}`, () =>
        api.GET("/api/v1/devices/{id}/values", { params: { path: { id: device }, query: { path } } }),
      );
  });
  $effect(() => {
    if (kind === "device" && type)
      void sheets.ask(
        type,
        async () =>
          (await api.GET("/api/v1/sheets/{type}", { params: { path: { type } } })) as {
            data?: { events?: SheetEvent[] };
          },
      );
  });
  $effect(() => {
    if (does) void actions.ask(does, () => api.GET("/api/v1/devices/{id}/actions", { params: { path: { id: does } } }));
  });
  const events = $derived(sheets.of(type)?.events ?? []);
  const fields = $derived(Object.keys(events.find((e) => e.id === event)?.fields ?? {}));
  const ranked = $derived(readings.of(device) ?? []);
  const choices = $derived(possible.of(`${device}:${path}`)?.values ?? []);
  const action = $derived(actions.of(does)?.find((a) => a.id === actionId));

  function setKind(to: string) {
    kind = to as Kind;
    edge = kind === "link" ? "comes" : "becomes";
  }
  function setAction(to: string) {
    actionId = to;
    const a = actions.of(does)?.find((o) => o.id === to);
    values = Object.fromEntries((a?.params ?? []).map((p) => [p.id, p.value || (p.choices[0]?.value ?? "")]));
  }

  async function save(e: SubmitEvent) {
    e.preventDefault();
    const body = {
      name,
      on: {
        kind,
        device,
        ...(kind === "reading" && { path, edge, forMs: Math.round((seconds ?? 0) * 1000) }),
        ...(kind === "reading" && (edge === "becomes" || edge === "leaves") && { value }),
        ...(kind === "reading" && (edge === "rises" || edge === "falls") && { level: level ?? 0, back: back ?? 0 }),
        ...(kind === "link" && { edge }),
        ...(kind === "device" && { event }),
      },
      when,
      unless,
      then: { device: does, action: actionId, params: values },
      everyMs: Math.round((every ?? 0) * 1000),
      per: every ? per : "",
      beyond: every ? (beyond as "" | "drop" | "queue" | "replace") : ("" as const),
      length: every && beyond === "queue" ? (length ?? 1) : 0,
    };
    if (reflex) {
      const r = await api.PUT("/api/v1/reflexes/{id}", {
        params: { path: { id: reflex.id } },
        body: { ...body, rev: reflex.rev },
      });
      errors = fieldsOf(r.error);
      if (Object.keys(errors).length === 0 && said(r, "The reflex is changed.")) await onsaved(reflex.id);
      return;
    }
    const r = await api.POST("/api/v1/reflexes", { body });
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length === 0 && said(r, "The reflex is added.") && r.data) await onsaved(r.data.id);
  }
  const text = (v: unknown) => String(v);
</script>

<form class="rows" onsubmit={save}>
  <Text id="reflex-name" label="Name" bind:value={name} maxlength={60} error={errors["name"] ?? ""} />
  <h3>When</h3>
  <Choice id="on-kind" label="What" value={kind} choices={kinds} error={errors["on.kind"] ?? ""} onchange={setKind} />
  <Choice
    id="on-device"
    label="Device"
    bind:value={device}
    choices={[choose, ...named, ...(kind === "reading" ? [own] : [])]}
    error={errors["on.device"] ?? ""}
  />
  {#if kind === "reading"}
    <Choice
      id="on-path"
      label="Reading"
      bind:value={path}
      choices={[choose, ...ranked.map((r) => ({ value: r.path, text: r.title }))]}
      error={errors["on.path"] ?? ""}
    />
    <Choice id="on-edge" label="It" bind:value={edge} choices={edges} error={errors["on.edge"] ?? ""} />
    {#if edge === "becomes" || edge === "leaves"}
      {#if choices.length > 0}
        <Choice
          id="on-value"
          label="Value"
          bind:value
          choices={[choose, ...choices.map((v) => ({ value: text(v.value), text: v.name }))]}
        />
      {:else}<Text id="on-value" label="Value" bind:value />{/if}
    {:else if edge === "rises" || edge === "falls"}
      <Amount id="on-level" label="Level" bind:value={level} />
      <Amount
        label="Back by"
        help="How far it goes back before it can fire again."
        bind:value={back}
        error={errors["on.back"] ?? ""}
      />
    {/if}
    <Amount
      label="For"
      unit="s"
      help="How long it has to be so; empty: not at all."
      bind:value={seconds}
      error={errors["on.forMs"] ?? ""}
    />
  {:else if kind === "link"}
    <Choice id="on-edge" label="It" bind:value={edge} choices={links} error={errors["on.edge"] ?? ""} />
  {:else}
    <Choice
      id="on-event"
      label="Event"
      bind:value={event}
      choices={[choose, ...events.map((e) => ({ value: e.id, text: e.title }))]}
      error={errors["on.event"] ?? ""}
    />
  {/if}
  <h3>Provided that</h3>
  <Text
    id="reflex-when"
    label="Condition"
    bind:value={when}
    help={fields.length > 0
      ? `Empty: always. It can say ${fields.map((f) => `event.${f}`).join(", ")}, such as event.${fields.includes("text") ? "text" : fields[0]} == '!map'.`
      : "Empty: always. Such as reading('stream-pc:stream/on') == true."}
    error={errors["when"] ?? ""}
  />
  <Text id="reflex-unless" label="Never while" bind:value={unless} error={errors["unless"] ?? ""} />
  <h3>Then</h3>
  <Choice
    id="then-device"
    label="Device"
    value={does}
    choices={[choose, own, ...named]}
    error={errors["device"] ?? errors["then"] ?? ""}
    onchange={(to) => {
      does = to;
      actionId = "";
    }}
  />
  <Choice
    id="then-action"
    label="Does"
    value={actionId}
    choices={[choose, ...(actions.of(does) ?? []).map((a) => ({ value: a.id, text: a.title }))]}
    error={errors["action"] ?? ""}
    onchange={setAction}
  />
  {#if action}<ParamFields device={does} {action} bind:values fields={errors} />{/if}
  <h3>No more often than</h3>
  <Amount id="reflex-every" label="Once in" unit="s" bind:value={every} error={errors["everyMs"] ?? ""} />
  {#if every}
    <Choice
      label="For each"
      bind:value={per}
      choices={[{ value: "", text: "all together" }, ...fields.map((f) => ({ value: f, text: f }))]}
    />
    <Choice
      label="More is"
      bind:value={beyond}
      choices={[
        { value: "", text: "dropped" },
        { value: "queue", text: "waits in a queue" },
        { value: "replace", text: "replaces what waits" },
      ]}
      error={errors["beyond"] ?? ""}
    />
    {#if beyond === "queue"}<Amount label="Places" bind:value={length} error={errors["length"] ?? ""} />{/if}
  {/if}
  <div class="buttons"><Act submit id="reflex-save">{reflex ? "Save" : "Add it"}</Act></div>
</form>

<style>
  form {
    padding: 0.5rem 1rem 1rem;
  }
  h3 {
    font-size: 0.875rem;
    margin-top: 0.6rem;
  }
</style>
