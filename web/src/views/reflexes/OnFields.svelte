<script lang="ts">
  import { api, type NamedValue, type Reading, type ReflexOn } from "../../api/client";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Pick from "../../parts/form/Pick.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { show } from "../../live/show.svelte";
  import { edges, firstOf, gestures, kinds, type SheetEvent } from "./reflexes.svelte";

  /** What starts a reflex, as blanks of a sentence. */
  let {
    on = $bindable(),
    events,
    errors,
  }: { on: ReflexOn; events: SheetEvent[]; errors: Record<string, string> } = $props();

  const choose = { value: "", text: "Choose …" };
  const devices = $derived((show.doc?.devices ?? []).map((d) => ({ value: d.id, text: d.name })));
  const error = (field: string) => errors[`on.${field}`] ?? "";
  const readings = new Answer<Reading[]>();
  const possible = new Answer<{ values: NamedValue[]; number: boolean }>();
  const macros = new Answer<{ id: string; name: string }[]>();
  const at = $derived(`${on.device}:${on.path}`);
  $effect(() => {
    const device = on.device;
    if (on.kind === "reading" && device)
      void readings.ask(device, () => api.GET("/api/v1/readings", { params: { query: { device } } }));
  });
  $effect(() => {
    const { device, path } = on;
    if (on.kind === "reading" && device && path)
      void possible.ask(at, () =>
        api.GET("/api/v1/devices/{id}/values", { params: { path: { id: device }, query: { path } } }),
      );
  });
  $effect(() => {
    if (on.kind === "macro") void macros.ask("all", () => api.GET("/api/v1/macros"));
  });
  const choices = $derived(possible.of(at)?.values ?? []);
  const controls = $derived(show.doc?.controllers.find((c) => c.id === on.controller)?.controls ?? []);

  /** How a schedule is said. */
  const recurs = $derived(
    on.cron !== undefined ? "cron" : on.date !== undefined ? "date" : on.days !== undefined ? "days" : "every",
  );
  const dayNames = { mon: "Mo", tue: "Tu", wed: "We", thu: "Th", fri: "Fr", sat: "Sa", sun: "Su" } as const;
  type Day = keyof typeof dayNames;

  function recur(to: string) {
    const { at, ...rest } = on;
    delete rest.days;
    delete rest.date;
    delete rest.cron;
    if (to === "cron") on = { ...rest, cron: "0 * * * *" };
    else if (to === "date") on = { ...rest, at: at ?? "", date: new Date().toISOString().slice(0, 10) };
    else on = { ...rest, at: at ?? "", ...(to === "days" && { days: ["fri", "sat"] }) };
  }
</script>

<Choice
  id="on-kind"
  label="What"
  value={on.kind}
  choices={kinds}
  error={error("kind")}
  onchange={(to) => (on = firstOf(to as ReflexOn["kind"]))}
/>
{#if on.kind === "reading" || on.kind === "link" || on.kind === "device"}
  <Choice
    id="on-device"
    label="Device"
    value={on.device ?? ""}
    choices={[choose, ...devices, ...(on.kind === "reading" ? [{ value: "synaptor", text: "Synaptor" }] : [])]}
    error={error("device")}
    onchange={(device) => (on = { ...firstOf(on.kind), device })}
  />
{/if}
{#if on.kind === "reading"}
  <Pick
    id="on-path"
    label="Reading"
    value={on.path ?? ""}
    choices={(readings.of(on.device ?? "") ?? []).map((r) => ({ value: r.path, text: r.title }))}
    error={error("path")}
    onchange={(path) => (on = { ...on, path })}
  />
  <Choice
    id="on-edge"
    label="It"
    value={on.edge ?? ""}
    choices={edges.reading}
    error={error("edge")}
    onchange={(edge) => (on = { ...on, edge })}
  />
  {#if on.edge === "becomes" || on.edge === "leaves"}
    {#if choices.length > 0}
      <Choice
        id="on-value"
        label="Value"
        value={on.value ?? ""}
        choices={[choose, ...choices.map((v) => ({ value: String(v.value), text: v.name }))]}
        onchange={(value) => (on = { ...on, value })}
      />
    {:else}<Text id="on-value" label="Value" value={on.value ?? ""} oninput={(value) => (on = { ...on, value })} />{/if}
  {:else if on.edge === "rises" || on.edge === "falls"}
    <Amount
      id="on-level"
      label="Level"
      step="any"
      value={on.level ?? 0}
      onchange={(v) => (on = { ...on, level: v ?? 0 })}
    />
    <Amount
      label="Back by"
      help="How far it goes back before it can fire again."
      min={0}
      step="any"
      value={on.back ?? null}
      error={error("back")}
      onchange={(v) => (on = { ...on, back: v ?? 0 })}
    />
  {/if}
  <Amount
    label="For"
    unit="s"
    help="How long it has to be so; empty: not at all."
    min={0}
    step="any"
    value={on.forMs ? on.forMs / 1000 : null}
    error={error("forMs")}
    onchange={(v) => (on = { ...on, forMs: Math.round((v ?? 0) * 1000) })}
  />
{:else if on.kind === "device"}
  <Choice
    id="on-event"
    label="Event"
    value={on.event ?? ""}
    choices={[choose, ...events.map((e) => ({ value: e.id, text: e.id.replaceAll("-", " ") }))]}
    error={error("event")}
    onchange={(event) => (on = { ...on, event })}
  />
{:else if on.kind === "gesture"}
  <Choice
    id="on-controller"
    label="Controller"
    value={on.controller ?? ""}
    choices={[choose, ...(show.doc?.controllers ?? []).map((c) => ({ value: c.id, text: c.name }))]}
    error={error("controller")}
    onchange={(controller) => (on = { ...on, controller, control: "" })}
  />
  <Choice
    label="Control"
    value={on.control ?? ""}
    choices={[{ value: "", text: "any of them" }, ...controls.map((c) => ({ value: c.id, text: c.id }))]}
    onchange={(control) => (on = { ...on, control })}
  />
  <Choice
    label="Gesture"
    value={on.gesture ?? ""}
    choices={gestures}
    error={error("gesture")}
    onchange={(gesture) => (on = { ...on, gesture })}
  />
{:else if on.kind === "signal"}
  <Text
    id="on-signal"
    label="Signal"
    value={on.signal ?? ""}
    help="A name; keys, macros, HTTP and OSC can send it."
    error={error("signal")}
    oninput={(signal) => (on = { ...on, signal })}
  />
{:else if on.kind === "macro"}
  <Choice
    id="on-macro"
    label="Macro"
    value={on.macro ?? ""}
    choices={[{ value: "", text: "any" }, ...(macros.of("all") ?? []).map((m) => ({ value: m.id, text: m.name }))]}
    onchange={(macro) => (on = { ...on, macro })}
  />
{:else if on.kind === "schedule"}
  <Choice
    id="on-recurs"
    label="When"
    value={recurs}
    choices={[
      { value: "every", text: "every day" },
      { value: "days", text: "on some days of the week" },
      { value: "date", text: "on a date" },
      { value: "cron", text: "by a recurrence" },
    ]}
    onchange={recur}
  />
  {#if recurs === "cron"}
    <Text
      id="on-cron"
      label="Recurrence"
      value={on.cron ?? ""}
      help="Minute, hour, day, month, day of the week: 0,30 20-23 * * sat."
      error={error("cron")}
      oninput={(cron) => (on = { ...on, cron })}
    />
  {:else}
    <Text
      id="on-at"
      label="At"
      value={on.at ?? ""}
      placeholder="22:30"
      error={error("at")}
      oninput={(at) => (on = { ...on, at })}
    />
    {#if recurs === "date"}
      <Text
        label="Date"
        value={on.date ?? ""}
        placeholder="2026-08-12"
        error={error("date")}
        oninput={(date) => (on = { ...on, date })}
      />
    {:else if recurs === "days"}
      <div class="row">
        <span class="bx--label">On</span>
        <div class="spread">
          {#each Object.entries(dayNames) as [day, name] (day)}
            <Tick
              label={name}
              checked={on.days?.includes(day as Day) ?? false}
              onchange={(is) =>
                (on = {
                  ...on,
                  days: is ? [...(on.days ?? []), day as Day] : (on.days ?? []).filter((d) => d !== day),
                })}
            />
          {/each}
        </div>
      </div>
    {/if}
  {/if}
{:else if on.kind === "timecode"}
  <Text
    id="on-timecode"
    label="Point"
    value={on.timecode ?? ""}
    placeholder="10:00:00:00"
    error={error("timecode")}
    oninput={(timecode) => (on = { ...on, timecode })}
  />
{/if}
{#if on.kind === "link" || on.kind === "macro" || on.kind === "panel" || on.kind === "start"}
  <Choice
    id="on-edge"
    label="It"
    value={on.edge ?? ""}
    choices={edges[on.kind]}
    error={error("edge")}
    onchange={(edge) => (on = { ...on, edge })}
  />
{/if}
