<script lang="ts">
  import { api, fieldsOf, type Reflex, type ReflexForm, type ReflexOn } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { said, show } from "../../live/show.svelte";
  import ConditionFields from "./ConditionFields.svelte";
  import OnFields from "./OnFields.svelte";
  import TableFields from "./TableFields.svelte";
  import ThenFields from "./ThenFields.svelte";
  import TryPart from "./TryPart.svelte";
  import { bodyOf, draftOf, type SheetEvent } from "./reflexes.svelte";

  /** A reflex as a sentence with blanks: on an event, provided a condition, then a response, no more often than a time, never while something is so. */
  let {
    reflex,
    from,
    groups,
    onsaved,
  }: {
    reflex: Reflex | undefined;
    /** What a new one waits for, where that was chosen. */
    from: { on: ReflexOn; name: string } | undefined;
    groups: string[];
    onsaved: (id: string) => unknown;
  } = $props();

  const was = (() => reflex)();
  let draft = $state<ReflexForm>((() => draftOf(was, from?.on, from?.name))());
  let errors = $state<Record<string, string>>({});
  const follows = $derived(draft.on.kind === "while");

  const sheets = new Answer<{ events?: SheetEvent[] }>();
  const type = $derived((show.doc?.devices ?? []).find((d) => d.id === draft.on.device)?.type ?? "");
  $effect(() => {
    if (draft.on.kind === "device" && type)
      void sheets.ask(
        type,
        async () =>
          (await api.GET("/api/v1/sheets/{type}", { params: { path: { type } } })) as {
            data?: { events?: SheetEvent[] };
          },
      );
  });
  const brings = new Answer<{ kind: string; fields: string[] }[]>();
  void brings.ask("all", () => api.GET("/api/v1/reflexes/kinds"));
  const events = $derived(sheets.of(type)?.events ?? []);
  /** What its event brings along, with the columns of its table. */
  const own = $derived(
    draft.on.kind === "device"
      ? Object.keys(events.find((e) => e.id === draft.on.event)?.fields ?? {})
      : (brings.of("all")?.find((k) => k.kind === draft.on.kind)?.fields ?? []),
  );
  const fields = $derived([...own, ...(draft.table?.columns ?? [])]);

  async function save(e: SubmitEvent) {
    e.preventDefault();
    const body = bodyOf($state.snapshot(draft) as ReflexForm);
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
  const seconds = (ms: number | undefined) => (ms ? ms / 1000 : null);
  const hold = (what: "overMs" | "afterMs" | "backMs") => (v: number | null) =>
    (draft.hold = { ...draft.hold, [what]: Math.round((v ?? 0) * 1000) });
</script>

<form class="rows" onsubmit={save}>
  <Text id="reflex-name" label="Name" bind:value={draft.name} maxlength={60} error={errors["name"] ?? ""} />
  <Text
    label="Group"
    value={draft.group ?? ""}
    list="reflex-groups"
    maxlength={40}
    oninput={(group) => (draft.group = group)}
  />
  <datalist id="reflex-groups"
    >{#each groups as g (g)}<option value={g}></option>{/each}</datalist
  >
  <h3>{follows ? "While" : "When"}</h3>
  <OnFields bind:on={draft.on} {events} {errors} />
  {#if !follows}<h3>Provided that</h3>{/if}
  <ConditionFields
    id="reflex-when"
    word={follows ? "While" : "If"}
    bind:source={() => draft.when ?? "", (v) => (draft.when = v)}
    bind:list={() => draft.whenSentences, (v) => (draft.whenSentences = v ?? [])}
    written={!!was?.when && was.whenSentences === null}
    event={follows || fields.length === 0 ? undefined : fields}
    device={draft.on.device ?? "synaptor"}
    error={errors["when"] ?? ""}
    add={follows ? "Say what it follows" : "Say what has to be so"}
  />
  <h3>{follows ? "Hold" : "Then"}</h3>
  <ThenFields bind:then={draft.then} event={follows ? [] : fields} {errors} {follows} />
  {#if follows}
    <Amount
      id="hold-by"
      label="Down by"
      help="Takes a number down by so much from where it is; empty: to what the action says."
      min={0}
      step="any"
      value={draft.hold?.by ?? null}
      error={errors["hold"] ?? ""}
      onchange={(v) => (draft.hold = { ...draft.hold, by: v ?? 0 })}
    />
    <Amount
      id="hold-over"
      label="Over"
      unit="s"
      min={0}
      step="any"
      value={seconds(draft.hold?.overMs)}
      onchange={hold("overMs")}
    />
    <Amount
      id="hold-after"
      label="Back after"
      unit="s"
      min={0}
      step="any"
      value={seconds(draft.hold?.afterMs)}
      onchange={hold("afterMs")}
    />
    <Amount
      label="Back over"
      unit="s"
      min={0}
      step="any"
      value={seconds(draft.hold?.backMs)}
      onchange={hold("backMs")}
    />
  {:else}
    {#if own.length > 0 || draft.table}
      <TableFields
        bind:table={draft.table}
        event={own}
        stored={was?.table ? was.id : ""}
        error={errors["table"] ?? ""}
      />
    {/if}
    <h3>No more often than</h3>
    <Amount
      id="reflex-every"
      label="Once in"
      unit="s"
      min={0}
      step="any"
      value={seconds(draft.everyMs)}
      error={errors["everyMs"] ?? ""}
      onchange={(v) => (draft.everyMs = Math.round((v ?? 0) * 1000))}
    />
    {#if draft.everyMs}
      <Choice
        label="For each"
        bind:value={() => draft.per ?? "", (v) => (draft.per = v)}
        choices={[{ value: "", text: "all together" }, ...fields]}
      />
      <Choice
        label="More is"
        value={draft.beyond ?? ""}
        choices={[
          { value: "", text: "dropped" },
          { value: "queue", text: "waits in a queue" },
          { value: "replace", text: "replaces what waits" },
        ]}
        error={errors["beyond"] ?? ""}
        onchange={(v) => (draft.beyond = v as "" | "queue" | "replace")}
      />
      {#if draft.beyond === "queue"}
        <Amount
          label="Places"
          min={1}
          value={draft.length ?? 1}
          error={errors["length"] ?? ""}
          onchange={(v) => (draft.length = v ?? 1)}
        />
      {/if}
    {/if}
  {/if}
  <h3>Never while</h3>
  <ConditionFields
    id="reflex-unless"
    word="While"
    bind:source={() => draft.unless ?? "", (v) => (draft.unless = v)}
    bind:list={() => draft.unlessSentences, (v) => (draft.unlessSentences = v ?? [])}
    written={!!was?.unless && was.unlessSentences === null}
    event={follows || fields.length === 0 ? undefined : fields}
    device={draft.on.device ?? "synaptor"}
    error={errors["unless"] ?? ""}
    add="Say when it never does"
  />
  <Tick label="Off until somebody switches it on" checked={draft.off ?? false} onchange={(off) => (draft.off = off)} />
  <div class="buttons"><Act submit id="reflex-save">{reflex ? "Save" : "Add it"}</Act></div>
</form>
{#if draft.then.action}<TryPart {draft} fields={own} id={was?.id ?? ""} />{/if}

<style>
  form {
    --beside: 5.5rem;
    padding: 0.5rem 1rem 1rem;
  }
  h3 {
    margin-top: 0.6rem;
  }
</style>
