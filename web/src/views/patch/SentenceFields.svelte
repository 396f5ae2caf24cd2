<script lang="ts">
  import { api, type NamedValue, type Reading, type Sentence } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { show } from "../../live/show.svelte";

  /** One sentence of a lamp: while a reading is so. */
  let {
    sentence = $bindable(),
    first,
    near,
    device: usual,
  }: {
    sentence: Sentence;
    /** It is the first of the lamp. */
    first: boolean;
    /** The readings that the key has to do with, offered before all others. */
    near: { key: string; title: string }[];
    /** The device that is offered first. */
    device: string;
  } = $props();

  const comparisons: { is: Sentence["is"]; title: string; number?: boolean }[] = [
    { is: "==", title: "is" },
    { is: "!=", title: "is not" },
    { is: ">", title: "is above", number: true },
    { is: ">=", title: "is at least", number: true },
    { is: "<", title: "is below", number: true },
    { is: "<=", title: "is at most", number: true },
  ];

  let device = $state((() => sentence.reading.split(":")[0] || usual)());
  const listed = new Answer<Reading[]>();
  const valued = new Answer<{ values: NamedValue[]; number: boolean }>();
  const readings = $derived(listed.of(device) ?? []);
  const values = $derived(valued.of(sentence.reading)?.values ?? []);
  const number = $derived(valued.of(sentence.reading)?.number ?? false);
  let chosen = false;

  const path = $derived(sentence.reading.slice(sentence.reading.indexOf(":") + 1));
  const devices = $derived([...(show.doc?.devices ?? []), { id: "synaptor", name: "Synaptor" }]);
  const close = $derived(near.filter((n) => n.key.startsWith(`${device}:`)));

  $effect(() => {
    const params = { query: { device } };
    void listed.ask(device, () => api.GET("/api/v1/readings", { params }));
  });
  $effect(() => {
    const at = sentence.reading.split(":")[0];
    if (!at || !path) return;
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
    sentence = { ...sentence, value: number && v !== "" && !Number.isNaN(n) ? n : v };
  }
</script>

<div class="fields">
  {#if first}
    <span>While</span>
  {:else}
    <select
      aria-label="Together or instead"
      value={sentence.or ? "or" : "and"}
      onchange={(e) => (sentence = { ...sentence, or: e.currentTarget.value === "or" || undefined })}
    >
      <option>and</option><option>or</option>
    </select>
  {/if}
  <select
    aria-label="Device"
    value={device}
    onchange={(e) => {
      device = e.currentTarget.value;
      sentence = { ...sentence, reading: "" };
    }}
  >
    {#each devices as d (d.id)}<option value={d.id}>{d.name}</option>{/each}
  </select>
  <select
    class="reading"
    aria-label="Reading"
    value={sentence.reading}
    onchange={(e) => {
      chosen = true;
      sentence = { ...sentence, reading: e.currentTarget.value };
    }}
  >
    <option value="">choose a reading …</option>
    {#if sentence.reading && !readings.some((r) => `${device}:${r.path}` === sentence.reading)}
      <option value={sentence.reading}>{close.find((n) => n.key === sentence.reading)?.title ?? path}</option>
    {/if}
    {#if close.length > 0}
      <optgroup label="Of this key">
        {#each close as n (n.key)}<option value={n.key}>{n.title}</option>{/each}
      </optgroup>
    {/if}
    <optgroup label="All">
      {#each readings as r (r.path)}<option value="{device}:{r.path}">{r.title}</option>{/each}
    </optgroup>
  </select>
  <select
    aria-label="Comparison"
    value={sentence.is}
    onchange={(e) => (sentence = { ...sentence, is: e.currentTarget.value as Sentence["is"] })}
  >
    {#each comparisons.filter((c) => !c.number || number) as c (c.is)}<option value={c.is}>{c.title}</option>{/each}
  </select>
  {#if values.length > 0}
    <select
      aria-label="Value"
      value={text(sentence.value)}
      onchange={(e) => (sentence = { ...sentence, value: JSON.parse(e.currentTarget.value) as Sentence["value"] })}
    >
      {#if !values.some((v) => text(v.value) === text(sentence.value))}
        <option value={text(sentence.value)}>{String(sentence.value)}</option>
      {/if}
      {#each values as v (text(v.value))}<option value={text(v.value)}>{v.name}</option>{/each}
    </select>
  {:else}
    <input
      aria-label="Value"
      value={sentence.value === true ? "" : String(sentence.value ?? "")}
      onchange={(e) => typed(e.currentTarget.value)}
    />
  {/if}
</div>

<style>
  div {
    display: flex;
    flex-wrap: wrap;
    gap: 0.35rem;
    align-items: center;
  }
  select {
    max-width: 9rem;
  }
  input {
    width: 6rem;
  }
  .reading {
    max-width: 15rem;
  }
</style>
