<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type Face, type Mapping, type Path } from "../../api/client";
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
    { kind: "", title: "none" },
    { kind: "hold", title: "hold it" },
    { kind: "twice", title: "press twice" },
    { kind: "cover", title: "lift a cover first" },
  ];

  const stored = () => ({
    label: mapping.face.label ?? "",
    background: mapping.face.background ?? "",
    text: mapping.face.text ?? "",
    guard: mapping.guard?.kind ?? "",
    guardMs: mapping.guard?.ms ?? 1000,
    guardWhen: mapping.guard?.when ?? "",
    guardBranch: mapping.guard?.branch ?? "",
    fires: mapping.fires ?? "",
    holdMs: mapping.holdMs ?? 0,
    doubleMs: mapping.doubleMs ?? 0,
    step: dial()?.step ?? 0,
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
  let labelInput = $state<HTMLInputElement>();

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
    labelInput?.focus();
    labelInput?.select();
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
  class="fields"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  {#if does.action}
    <ParamFields device={does.device} action={does.action} bind:values={draft.params} {fields} />
  {/if}
  <label
    ><span>label</span>
    <input
      bind:this={labelInput}
      bind:value={draft.label}
      id="label"
      placeholder={mapping.face.label ? "follows the device" : (face?.label ?? "")}
      title="Text with {'{…}'} follows readings; empty follows the device's own names"
      onkeydown={labelKeys}
    /></label
  >
  {#if fields.label}<p class="wrong">{fields.label}</p>{/if}
  <label
    ><span>colours</span>
    <span class="colours">
      <input
        type="color"
        aria-label="Background"
        title="Background"
        value={draft.background || face?.background}
        oninput={(e) => (draft.background = e.currentTarget.value)}
      />
      <input
        type="color"
        aria-label="Text"
        title="Text"
        value={draft.text || face?.text}
        oninput={(e) => (draft.text = e.currentTarget.value)}
      />
      {#if draft.background || draft.text}
        <button type="button" class="plain" onclick={() => ((draft.background = ""), (draft.text = ""))}
          >the role's own</button
        >
      {/if}
    </span></label
  >
  {#if fields.text || fields.background}<p class="wrong">{fields.text || fields.background}</p>{/if}
  {#if dialled}
    <label
      ><span>step</span>
      <input
        type="number"
        min="0"
        step="any"
        placeholder="usual"
        bind:value={() => draft.step || null, (v) => (draft.step = v ?? 0)}
      />
    </label>
    {#if does.gesture === "slide"}
      <label class="tick"><input type="checkbox" bind:checked={draft.jump} /> takes its value at once</label>
      <label class="tick"><input type="checkbox" bind:checked={draft.inverted} /> runs the other way round</label>
    {/if}
  {:else}
    <label
      ><span>guard</span>
      <span class="colours">
        <select bind:value={draft.guard} aria-label="Guard">
          {#each guards as g (g.kind)}<option value={g.kind}>{g.title}</option>{/each}
        </select>
        {#if draft.guard}<input
            type="number"
            min="200"
            max="20000"
            step="100"
            aria-label="Guard in ms"
            bind:value={draft.guardMs}
          /> ms{/if}
      </span></label
    >
    {#if draft.guard}
      <label
        ><span>only while</span>
        <input
          bind:value={draft.guardWhen}
          placeholder="always; or reading('stream-pc:stream/on') == true"
          aria-label="Guards only while"
        /></label
      >
      {#if does.macro && does.macro.branches.length > 0}
        <label
          ><span>only for</span>
          <select bind:value={draft.guardBranch} aria-label="Guards only the press that takes">
            <option value="">every press</option>
            {#each does.macro.branches as b (b.id)}<option value={b.id}>the press that takes {b.name}</option>{/each}
          </select></label
        >
      {/if}
    {/if}
    {#if fields.guard}<p class="wrong">{fields.guard}</p>{/if}
    {#if does.gesture === "press" && touch}
      <label
        ><span>fires</span>
        <select bind:value={draft.fires} aria-label="When it fires">
          <option value="">{does.action?.risky ? "on lift, as risky ones do" : "on touch"}</option>
          {#if does.action?.risky}<option value="touch">on touch</option>{/if}
          <option value="lift">on lift; sliding off cancels</option>
        </select></label
      >
      {#if fields.fires}<p class="wrong">{fields.fires}</p>{/if}
    {/if}
    {#if does.gesture === "hold"}
      <label
        ><span>hold, ms</span>
        <input
          type="number"
          min="100"
          max="10000"
          step="50"
          placeholder="400"
          bind:value={() => draft.holdMs || null, (v) => (draft.holdMs = v ?? 0)}
        /></label
      >
      {#if fields.holdMs}<p class="wrong">{fields.holdMs}</p>{/if}
    {:else if does.gesture === "double"}
      <label
        ><span>within, ms</span>
        <input
          type="number"
          min="100"
          max="2000"
          step="10"
          placeholder="250"
          bind:value={() => draft.doubleMs || null, (v) => (draft.doubleMs = v ?? 0)}
        /></label
      >
      {#if fields.doubleMs}<p class="wrong">{fields.doubleMs}</p>{/if}
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
<p class="more">
  <button type="button" class="plain stand" onclick={stand}
    >{stands ? "Keep it on this page only" : "Have it stand on every page"}</button
  >
  {#if does.gesture === "press" && !does.macro && does.device !== "synaptor"}
    <button type="button" class="plain make" onclick={() => makeMacro(page, [control])}>Make this a macro</button>
  {/if}
  {#if mapping.responses.length > 1}
    <button type="button" class="plain" onclick={dropGesture}>Nothing on {does.gesture}</button>
  {/if}
</p>

<style>
  p {
    margin: 0 0 0.3rem;
    font-size: inherit;
  }
  .head {
    font-size: 0.9375rem;
    overflow-wrap: anywhere;
  }
  .wrong {
    color: var(--finding);
  }
  .buttons {
    display: flex;
    gap: 0.5rem;
    margin-top: 0.3rem;
    flex-wrap: wrap;
  }
  form {
    display: grid;
    gap: 0.3rem;
    margin-top: 0.4rem;
  }
  label {
    display: grid;
    grid-template-columns: 5rem 1fr;
    align-items: center;
    gap: 0.5rem;
    color: var(--quiet);
  }
  .colours {
    display: flex;
    gap: 0.4rem;
    align-items: center;
  }
  .more {
    display: flex;
    gap: 1rem;
    margin-top: 0.5rem;
    flex-wrap: wrap;
  }
  .tick {
    grid-template-columns: auto 1fr;
    justify-content: start;
  }
  input::placeholder {
    color: #8b939d;
  }
  input:not([type="color"], [type="checkbox"]) {
    width: 100%;
  }
</style>
