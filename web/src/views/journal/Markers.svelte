<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type Marker, type Span } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { notices, said, show } from "../../live/show.svelte";
  import { timeOfDay } from "../../live/words.svelte";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import None from "../../parts/form/None.svelte";
  import Rows from "../../parts/form/Rows.svelte";
  import Text from "../../parts/form/Text.svelte";

  /** The markers of a time, with their place in a recording; each can be changed afterwards, and all be handed to other programs. */
  const kinds = ["note", "highlight", "chapter", "mistake"] as const;
  const times = [
    { value: "12", text: "Last 12 hours" },
    { value: "24", text: "Last 24 hours" },
    { value: "168", text: "Last 7 days" },
  ];
  let hours = $state("24");
  let began = $state("");
  let start = $state("00:00:00:00");
  let zone = $state("");
  const span = () => ({ since: new Date(Date.now() - Number(hours) * 3_600_000).toISOString() });
  const place = $derived({ ...(began && { began }), ...(start.trim() && { start: start.trim() }) });

  const answer = new Answer<Marker[]>();
  const recordings = new Answer<Span[]>();
  const list = $derived(answer.of("list") ?? []);
  const takes = $derived(recordings.of("list") ?? []);
  const load = () =>
    answer.ask("list", () => api.GET("/api/v1/markers", { params: { query: { ...span(), ...place } } }));
  $effect(() => {
    feed.follow("markers", ["markers"]);
    return () => feed.follow("markers", []);
  });
  $effect(() => {
    void [feed.epoch, show.doc?.id, feed.values.get("markers"), hours, place];
    void load();
  });
  $effect(() => {
    void [feed.epoch, hours];
    void recordings.ask("list", () => api.GET("/api/v1/recordings", { params: { query: span() } }));
    void api.GET("/api/v1/settings/zone").then((r) => (zone = r.data?.timeZone ?? ""));
  });
  // The newest recording is what markers are wanted in.
  $effect(() => {
    if (!began && takes.length > 0) began = takes.at(-1)?.from ?? "";
  });
  const choices = $derived([
    { value: "", text: "No recording" },
    ...takes.map((t) => ({ value: t.from, text: `${t.title} on ${t.device}, ${timeOfDay(t.from, false, zone)}` })),
  ]);
  const wrong = $derived(answer.problem("list"));

  let open = $state("");
  const blank = () => ({ kind: "note" as Marker["kind"], text: "", leadS: 0 as number | null, timecode: "" });
  let draft = $state(blank());
  let errors = $state<Record<string, string>>({});
  function edit(m: Marker) {
    errors = {};
    open = m.id;
    draft = { kind: m.kind, text: m.text, leadS: (m.leadMs ?? 0) / 1000, timecode: m.timecode ?? "" };
  }
  async function save(e: SubmitEvent) {
    e.preventDefault();
    const m = list.find((x) => x.id === open);
    const { kind, text, leadS, timecode } = draft;
    const moved = timecode.trim() && timecode.trim() !== m?.timecode;
    const r = await api.PUT("/api/v1/markers/{id}", {
      params: { path: { id: open } },
      body: {
        kind,
        text,
        leadMs: Math.round((leadS ?? 0) * 1000),
        ...(moved && { timecode: timecode.trim(), began, start: start.trim() }),
      },
    });
    errors = fieldsOf(r.error);
    if (!r.error) open = "";
    else if (Object.keys(errors).length === 0) said(r);
    await load();
  }
  async function remove(m: Marker) {
    if (!said(await api.DELETE("/api/v1/markers/{id}", { params: { path: { id: m.id } } }))) return;
    const at = new Date(Date.parse(m.at) + (m.leadMs ?? 0)).toISOString();
    const body = { kind: m.kind, text: m.text, at, ...(m.leadMs && { leadMs: m.leadMs }) };
    notices.add("done", `The marker “${m.text}” is gone.`, {
      text: "Bring it back",
      run: async () => said(await api.POST("/api/v1/markers", { body })),
    });
    await load();
  }
  const exported = (form: string) =>
    `/api/v1/markers/export?${new URLSearchParams({ form, ...span(), ...place }).toString()}`;
  const columns = [
    { text: "Time", by: (m: Marker) => m.at },
    { text: "In the recording", by: (m: Marker) => m.timecode ?? "" },
    { text: "Kind", by: (m: Marker) => m.kind },
    { text: "Text", by: (m: Marker) => m.text },
    { text: "Lead", numeric: true, by: (m: Marker) => m.leadMs ?? 0 },
    { text: "By", by: (m: Marker) => m.by },
    { text: "" },
  ];
</script>

<div class="sheet-of" data-help="journal/markers">
  <div class="choose">
    <Choice label="When" choices={times} bind:value={hours} />
    <Choice label="Recording" {choices} bind:value={began} />
    <Text label="Timecode of its first frame" bind:value={start} />
    <p class="exports">
      {#each [["csv", "CSV"], ["vtt", "WebVTT"], ["edl", "CMX 3600"]] as [form, text] (form)}
        <a href={exported(form ?? "")} data-export={form}>{text}</a>
      {/each}
    </p>
  </div>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  <Rows label="Markers" {columns} rows={list} key={(m) => m.id} current={open} data-marker={(m: Marker) => m.text}>
    {#snippet cells(m)}
      <td class="mono">{timeOfDay(m.at, false, zone)}</td>
      <td class="mono">{m.timecode ?? (began ? "before it" : "")}</td>
      <td>{m.kind}</td>
      <td>{m.text}</td>
      <td class="num mono">{m.leadMs ? `${m.leadMs / 1000} s` : ""}</td>
      <td>{m.by}</td>
      <td class="acts">
        {#if m.entry}<a href="/journal/{m.entry}">Trace</a>{/if}
        <Act onclick={() => edit(m)}>Change</Act><Act quiet onclick={() => remove(m)}>Remove</Act>
      </td>
    {/snippet}
  </Rows>
  {#if list.length === 0}
    <div class="empty">
      <None waits={answer.waits("list")} problem={wrong}
        >No marker was set in this time. A key, a macro or the Desk sets one.</None
      >
    </div>
  {/if}
  {#if open}
    <form onsubmit={save} aria-label="The marker">
      <Choice
        label="Kind"
        choices={kinds.map((k) => ({ value: k, text: k }))}
        bind:value={draft.kind}
        error={errors["kind"]}
      />
      <Text label="Text" bind:value={draft.text} error={errors["text"]} maxlength={400} />
      <Amount
        label="Lead"
        unit="s"
        min={0}
        max={3600}
        step="any"
        bind:value={draft.leadS}
        error={errors["leadMs"]}
        help="How long before it was set it points at."
      />
      <Text
        label="In the recording"
        bind:value={draft.timecode}
        error={errors["timecode"]}
        disabled={!began}
        placeholder="00:00:00:00"
      />
      <div class="buttons">
        <Button type="submit" size="small">Save</Button>
        <Button kind="ghost" size="small" on:click={() => (open = "")}>Cancel</Button>
      </div>
    </form>
  {/if}
</div>

<style>
  .choose,
  form {
    display: grid;
    grid-template-columns: 12rem minmax(14rem, 24rem) 14rem 1fr;
    gap: 0.75rem;
    align-items: end;
    margin-bottom: 0.75rem;
  }
  form {
    grid-template-columns: 10rem minmax(0, 1fr) 8rem 12rem auto;
    margin-top: 1rem;
    align-items: start;
  }
  .exports {
    display: flex;
    gap: 1rem;
    justify-content: flex-end;
    padding-bottom: 0.4rem;
  }
  .acts {
    white-space: nowrap;
  }
  .buttons {
    padding-top: 1.2rem;
    display: flex;
  }
  .empty {
    padding: 1.5rem 0;
  }
</style>
