<script lang="ts">
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { api, type NamedValue, type Reading, type Sentence } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { show } from "../../live/show.svelte";

  /** One sentence of a lamp: while a reading is so. */
  let {
    sentence = $bindable(),
    first,
    near,
    device: usual,
    word = "While",
    event,
  }: {
    sentence: Sentence;
    /** It is the first of the lamp. */
    first: boolean;
    /** The readings that the key has to do with, offered before all others. */
    near: { key: string; title: string }[];
    /** The device that is offered first. */
    device: string;
    /** What it begins with. */
    word?: string;
    /** The fields of an event, where it may be about one. */
    event?: string[] | undefined;
  } = $props();

  const comparisons: { is: Sentence["is"]; title: string; number?: boolean; event?: boolean }[] = [
    { is: "==", title: "is" },
    { is: "!=", title: "is not" },
    { is: "startsWith", title: "begins with", event: true },
    { is: "contains", title: "contains", event: true },
    { is: ">", title: "is above", number: true },
    { is: ">=", title: "is at least", number: true },
    { is: "<", title: "is below", number: true },
    { is: "<=", title: "is at most", number: true },
  ];

  let device = $state((() => sentence.reading.split(":")[0] || usual)());
  const listed = new Answer<Reading[]>();
  const valued = new Answer<{ values: NamedValue[]; number: boolean }>();
  /** It is about what an event brings along. */
  const ofEvent = $derived(device === "event");
  const readings = $derived<{ path: string; title: string }[]>(
    ofEvent ? (event ?? []).map((f) => ({ path: f, title: `its ${f}` })) : (listed.of(device) ?? []),
  );
  const values = $derived(valued.of(sentence.reading)?.values ?? []);
  const number = $derived(valued.of(sentence.reading)?.number ?? false);
  let chosen = false;

  const path = $derived(sentence.reading.slice(sentence.reading.indexOf(":") + 1));
  const devices = $derived([
    ...(event ? [{ id: "event", name: "The event" }] : []),
    ...(show.doc?.devices ?? []),
    { id: "synaptor", name: "Synaptor" },
  ]);
  const close = $derived(near.filter((n) => n.key.startsWith(`${device}:`)));

  $effect(() => {
    if (ofEvent) return;
    const params = { query: { device } };
    void listed.ask(device, () => api.GET("/api/v1/readings", { params }));
  });
  $effect(() => {
    const at = sentence.reading.split(":")[0];
    if (!at || !path || at === "event") return;
    const params = { path: { id: at }, query: { path } };
    void valued
      .ask(sentence.reading, () => api.GET("/api/v1/devices/{id}/values", { params }))
      .then((data) => {
        if (!data) return;
        // A reading that was just chosen begins with a value that it can have.
        const first = data.values[0];
        if (chosen && first && !data.values.some((v) => text(v.value) === text(sentence.value)))
          sentence = { ...sentence, value: first.value as Sentence["value"] };
        chosen = false;
      });
  });

  const text = (v: unknown) => JSON.stringify(v);

  function typed(v: string) {
    const n = Number(v.replace(",", "."));
    const counts = number || (ofEvent && !["==", "!=", "startsWith", "contains"].includes(sentence.is));
    sentence = { ...sentence, value: counts && v !== "" && !Number.isNaN(n) ? n : v };
  }
</script>

<div class="inline">
  {#if first}
    <span>{word}</span>
  {:else}
    <Choice
      hideLabel
      label="Together or instead"
      value={sentence.or ? "or" : "and"}
      choices={["and", "or"]}
      onchange={(to) => (sentence = { ...sentence, or: to === "or" || undefined })}
    />
  {/if}
  <Choice
    hideLabel
    label="Device"
    value={device}
    choices={devices.map((d) => ({ value: d.id, text: d.name }))}
    onchange={(to) => {
      device = to;
      sentence = { ...sentence, reading: "" };
    }}
  />
  <Choice
    hideLabel
    label="Reading"
    value={sentence.reading}
    choices={[
      { value: "", text: "choose a reading …" },
      ...(sentence.reading && !readings.some((r) => `${device}:${r.path}` === sentence.reading)
        ? [{ value: sentence.reading, text: close.find((n) => n.key === sentence.reading)?.title ?? path }]
        : []),
      ...close.map((n) => ({ value: n.key, text: n.title, group: "Of this key" })),
      ...readings.map((r) => ({ value: `${device}:${r.path}`, text: r.title, group: "All" })),
    ]}
    onchange={(to) => {
      chosen = true;
      sentence = { ...sentence, reading: to };
    }}
  />
  <Choice
    hideLabel
    label="Comparison"
    value={sentence.is}
    choices={comparisons
      .filter((c) => ofEvent || (!c.event && (!c.number || number)))
      .map((c) => ({ value: c.is, text: c.title }))}
    onchange={(to) => (sentence = { ...sentence, is: to as Sentence["is"] })}
  />
  {#if values.length > 0}
    <Choice
      hideLabel
      label="Value"
      value={text(sentence.value)}
      choices={[
        ...(values.some((v) => text(v.value) === text(sentence.value))
          ? []
          : [{ value: text(sentence.value), text: String(sentence.value) }]),
        ...values.map((v) => ({ value: text(v.value), text: v.name })),
      ]}
      onchange={(to) => (sentence = { ...sentence, value: JSON.parse(to) as Sentence["value"] })}
    />
  {:else}
    <Text
      hideLabel
      label="Value"
      value={sentence.value === true ? "" : String(sentence.value ?? "")}
      onchange={typed}
    />
  {/if}
</div>
