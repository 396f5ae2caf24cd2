<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type Face, type Mapping, type Path } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Colour from "../../parts/form/Colour.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import ParamFields from "../../parts/ParamFields.svelte";
  import RunsMacro from "./RunsMacro.svelte";
  import { makeMacro } from "./edits";
  import { notices } from "../../live/show.svelte";

  /** What a mapping does and how it looks, edited in place. It is made anew for every mapping. */
  let {
    mapping,
    does,
    face,
    page,
    touch,
    control,
  }: {
    mapping: Mapping;
    does: Path["does"][number];
    face: Face | undefined;
    page: string;
    control: string;
    /** It is on a touch key, where a press may wait for the lift. */
    touch: boolean;
  } = $props();

  const dialled = $derived(["turn", "push-turn", "slide"].includes(does.gesture));
  const dial = () => mapping.responses.find((r) => r.gesture === does.gesture)?.dial;
  const guards = [
    { value: "", text: "none" },
    { value: "hold", text: "hold it" },
    { value: "twice", text: "press twice" },
    { value: "cover", text: "lift a cover first" },
  ];

  const stored = () => ({
    label: mapping.face.label ?? "",
    background: mapping.face.background ?? "",
    text: mapping.face.text ?? "",
    guard: mapping.guard?.kind ?? "",
    guardMs: (mapping.guard?.ms ?? 1000) as number | null,
    guardWhen: mapping.guard?.when ?? "",
    guardBranch: mapping.guard?.branch ?? "",
    fires: mapping.fires ?? "",
    holdMs: mapping.holdMs || null,
    doubleMs: mapping.doubleMs || null,
    step: dial()?.step || null,
    inverted: dial()?.inverted ?? false,
    jump: dial()?.jump ?? false,
    params: Object.fromEntries((does.action?.params ?? []).map((p) => [p.id, p.value])),
  });
  let draft = $state(stored());
  /** What the draft was made from, and at which revision. */
  let base = $state.raw(stored());
  let rev = $state((() => mapping.rev)());
  /** The revision of our own save, until it was read back. */
  let awaited = 0;
  let fields = $state<Record<string, string>>({});
  let labelField = $state<Text>();

  const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
  const dirty = $derived(!same(draft, base));
  /** Somebody else changed it while it was being edited here. */
  const overtaken = $derived(dirty && mapping.rev > rev);

  // What is stored shows at once, unless something is being edited.
  $effect(() => {
    void mapping.rev;
    if (mapping.rev < awaited) return; // read before our own save
    awaited = 0;
    if (!dirty && (mapping.rev !== rev || !same(base, stored()))) reset();
  });

  function reset() {
    fields = {};
    base = stored();
    draft = stored();
    rev = mapping.rev;
  }

  export function editLabel() {
    labelField?.focus();
  }

  async function save(against = rev) {
    const sent = $state.snapshot(draft);
    const { data, error } = await api.PUT("/api/v1/mappings/{id}", {
      params: { path: { id: mapping.id } },
      body: {
        rev: against,
        name: mapping.name ?? "",
        face: {
          ...mapping.face,
          label: sent.label || undefined,
          background: sent.background || undefined,
          text: sent.text || undefined,
        },
        action: does.action
          ? { device: does.device, action: does.action.id, params: sent.params, gesture: does.gesture }
          : undefined,
        guard: sent.guard
          ? {
              kind: sent.guard as "hold",
              ms: sent.guardMs || 1000,
              when: sent.guardWhen || undefined,
              branch: sent.guardBranch || undefined,
            }
          : { kind: "" as "hold", ms: 0 },
        fires: sent.fires as "lift",
        holdMs: sent.holdMs || 0,
        doubleMs: sent.doubleMs || 0,
        dial: dialled
          ? {
              ...dial(),
              param: dial()?.param ?? "",
              step: sent.step || undefined,
              inverted: sent.inverted,
              jump: sent.jump,
            }
          : undefined,
      },
    });
    fields = fieldsOf(error);
    if (data) {
      base = sent;
      rev = data.rev;
      awaited = data.rev;
    } else if (error && Object.keys(fields).length === 0) notices.add("refused", error.detail);
  }

  const stands = $derived(mapping.placements.some((p) => p.standing));

  async function stand() {
    const stood = stands;
    const { data, error } = await api.PUT("/api/v1/mappings/{id}/standing", {
      params: { path: { id: mapping.id } },
      body: { stands: !stands, page },
    });
    if (error) notices.add("refused", error.detail);
    else if (data.over.length > 0)
      notices.add(
        "done",
        `${stood ? "It took the place of" : "It now hides"} ${data.over.join(", ")}. Undo brings that back.`,
      );
  }

  /** Has this gesture do nothing from now on. */
  async function dropGesture() {
    const { error } = await api.PUT("/api/v1/mappings/{id}", {
      params: { path: { id: mapping.id } },
      body: { rev: mapping.rev, name: mapping.name ?? "", face: mapping.face, drop: does.gesture },
    });
    if (error) notices.add("refused", error.detail);
  }

  function labelKeys(e: KeyboardEvent) {
    if (e.key === "Enter") void save();
    else if (e.key === "Escape") {
      reset();
      (e.currentTarget as HTMLElement).blur();
    } else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<p class="head">{does.title}</p>
{#if does.problem}<p class="wrong">{does.problem}</p>{/if}
{#if does.macro}<RunsMacro {mapping} macro={does.macro} />{/if}
<form
  class="rows"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  {#if does.action}
    <ParamFields pressed device={does.device} action={does.action} bind:values={draft.params} {fields} />
  {/if}
  <Text
    bind:this={labelField}
    bind:value={draft.label}
    id="label"
    label="label"
    error={fields.label}
    placeholder={mapping.face.label ? "follows the device" : (face?.label ?? "")}
    title="Text with {'{…}'} follows readings; empty follows the device's own names"
    onkeydown={labelKeys}
  />
  <div class="row">
    <span class="bx--label">colours</span>
    <span class="spread">
      <Colour label="Background" value={draft.background || face?.background} oninput={(c) => (draft.background = c)} />
      <Colour label="Text" value={draft.text || face?.text} oninput={(c) => (draft.text = c)} />
      {#if draft.background || draft.text}
        <Act onclick={() => ((draft.background = ""), (draft.text = ""))}>the role's own</Act>
      {/if}
    </span>
  </div>
  {#if fields.text || fields.background}<p class="wrong bare">{fields.text || fields.background}</p>{/if}
  {#if dialled}
    <Amount label="step" min={0} step="any" placeholder="usual" bind:value={draft.step} error={fields.step} />
    {#if does.gesture === "slide"}
      <Tick label="takes its value at once" bind:checked={draft.jump} />
      <Tick label="runs the other way round" bind:checked={draft.inverted} />
    {/if}
  {:else}
    <Choice label="guard" bind:value={draft.guard} choices={guards} error={fields.guard} />
    {#if draft.guard}
      <Amount label="guard for" unit="ms" min={200} max={20000} step={100} bind:value={draft.guardMs} />
      <Text
        label="only while"
        bind:value={draft.guardWhen}
        placeholder="always; or reading('stream-pc:stream/on') == true"
      />
      {#if does.macro && does.macro.branches.length > 0}
        <Choice
          label="only for"
          bind:value={draft.guardBranch}
          choices={[
            { value: "", text: "every press" },
            ...does.macro.branches.map((b) => ({ value: b.id, text: `the press that takes ${b.name}` })),
          ]}
        />
      {/if}
    {/if}
    {#if does.gesture === "press" && touch}
      <Choice
        label="fires"
        bind:value={draft.fires}
        error={fields.fires}
        choices={[
          { value: "", text: does.action?.risky ? "on lift, as risky ones do" : "on touch" },
          ...(does.action?.risky ? [{ value: "touch", text: "on touch" }] : []),
          { value: "lift", text: "on lift; sliding off cancels" },
        ]}
      />
    {/if}
    {#if does.gesture === "hold"}
      <Amount
        label="hold"
        unit="ms"
        min={100}
        max={10000}
        step={50}
        placeholder="400"
        bind:value={draft.holdMs}
        error={fields.holdMs}
      />
    {:else if does.gesture === "double"}
      <Amount
        label="within"
        unit="ms"
        min={100}
        max={2000}
        step={10}
        placeholder="250"
        bind:value={draft.doubleMs}
        error={fields.doubleMs}
      />
    {/if}
  {/if}
  {#if overtaken}
    <p class="wrong">Somebody else has changed this key in the meantime.</p>
    <div class="buttons">
      <Button size="small" kind="ghost" on:click={reset}>Show theirs</Button>
      <Button size="small" kind="ghost" on:click={() => save(mapping.rev)}>Save mine over it</Button>
    </div>
  {:else if dirty}
    <div class="buttons">
      <Button size="small" type="submit">Save</Button>
      <Button size="small" kind="ghost" on:click={reset}>Leave as it was</Button>
    </div>
  {/if}
</form>
<p class="buttons">
  <Act class="stand" onclick={stand}>{stands ? "Keep it on this page only" : "Have it stand on every page"}</Act>
  {#if does.gesture === "press" && !does.macro && does.device !== "synaptor"}
    <Act class="make" onclick={() => makeMacro(page, [control])}>Make this a macro</Act>
  {/if}
  {#if mapping.responses.length > 1}
    <Act onclick={dropGesture}>Nothing on {does.gesture}</Act>
  {/if}
</p>

<style>
  p {
    margin: 0 0 0.3rem;
  }
  .head {
    font-size: 0.9375rem;
    overflow-wrap: anywhere;
  }
  form {
    margin-top: 0.4rem;
  }
  .buttons {
    margin-top: 0.3rem;
  }
</style>
