<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { tick, untrack } from "svelte";
  import { fieldsOf, type MacroStep, type Sentence } from "../../api/client";
  import ParamFields from "../../parts/ParamFields.svelte";
  import SentenceFields from "../patch/SentenceFields.svelte";
  import { notices } from "../../live/show.svelte";
  import { macro, time } from "./macro.svelte";

  /** What can be said of a step, saved as it is left or with Enter. It is made anew for every step. */
  let { step }: { step: MacroStep } = $props();

  const stored = () => ({
    name: step.name ?? "",
    note: step.note ?? "",
    off: step.off ?? false,
    seconds: ((step.ms ?? 0) / 1000) as number | null,
    frames: (step.frames ?? 0) as number | null,
    gap: (step.gapMs ?? 0) as number | null,
    limit: ((step.limitMs ?? 0) / 1000) as number | null,
    else: step.else ?? "",
    curve: step.curve ?? "",
    weight: (step.weight || 1) as number | null,
    count: (step.count ?? 0) as number | null,
    run: step.run ?? "",
    params: { ...Object.fromEntries((step.detail?.params ?? []).map((p) => [p.id, p.value])), ...step.action?.params },
    sentences: step.sentences ?? [],
    when: step.when ?? "",
  });
  let draft = $state(stored());
  let base = JSON.stringify(stored());
  let rev = $state((() => step.rev)());
  /** The revision that the draft was made from. */
  let against = (() => step.rev)();
  let fields = $state<Record<string, string>>({});
  let form = $state<HTMLFormElement>();
  const timed = $derived(step.kind === "wait" || step.kind === "fade");
  const conditional = $derived(
    step.kind === "wait-for" ||
      (step.kind === "branch" && ["if", "turns"].includes(macro.lines.find((l) => l.id === step.parent)?.kind ?? "")),
  );
  /** It says more than sentences can. */
  const written = $derived(step.when !== undefined && step.when !== "" && step.sentences === null);
  /** What the step before plays, which a wait can take over. */
  const plays = $derived.by(() => {
    const at = macro.lines.findIndex((l) => l.id === step.id);
    const before = macro.lines[at - 1];
    return step.kind === "wait" && before && before.playsMs > 0 ? before : undefined;
  });

  $effect(() => {
    if (step.rev === rev) return;
    rev = step.rev;
    // What is being edited here stays, on top of what it began with; saving says when somebody else was faster.
    if (JSON.stringify(untrack(() => draft)) !== base) return;
    take();
  });

  /** Shows what is stored. */
  function take() {
    draft = stored();
    base = JSON.stringify(draft);
    against = step.rev;
  }

  export function edit() {
    form?.querySelector<HTMLElement>("input, select")?.focus();
  }

  /** One save after the other: what changes meanwhile goes with the next. */
  let saving = false;
  let again = false;

  async function save() {
    if (JSON.stringify(draft) === base) return;
    if (saving) {
      again = true;
      return;
    }
    saving = true;
    again = false;
    await send();
    saving = false;
    if (again) void save();
  }

  async function send() {
    const sent = $state.snapshot(draft);
    const bySentences = conditional && !written && sent.sentences.every((s) => s.reading);
    const { data, error } = await macro.change(step, against, {
      name: sent.name || undefined,
      note: sent.note || undefined,
      off: sent.off || undefined,
      ms: timed ? Math.round((sent.seconds || 0) * 1000) : step.ms,
      frames: sent.frames || undefined,
      gapMs: sent.gap || undefined,
      limitMs: step.kind === "wait-for" ? Math.round((sent.limit || 0) * 1000) : step.limitMs,
      else: sent.else || undefined,
      curve: sent.curve || undefined,
      weight: sent.weight || undefined,
      count: sent.count || undefined,
      run: sent.run || undefined,
      action: step.action && { device: step.action.device, action: step.action.action, params: sent.params },
      when: written ? sent.when : bySentences && sent.sentences.length > 0 ? undefined : bySentences ? "" : step.when,
      sentences: bySentences && sent.sentences.length > 0 ? sent.sentences : undefined,
    });
    fields = fieldsOf(error);
    if (data) {
      against = data.rev;
      base = JSON.stringify(sent);
      if (macro.doc) await macro.load(macro.doc.id);
    } else if (error && Object.keys(fields).length === 0) notices.add("refused", error.detail);
  }

  function keys(e: KeyboardEvent) {
    if (e.key === "Enter") void save();
    else if (e.key === "Escape") {
      take();
      document.querySelector<HTMLElement>(`[data-step="${step.id}"]`)?.focus();
    } else return;
    e.preventDefault();
    e.stopPropagation();
  }

  const fresh = (): Sentence => ({ reading: "", is: "==", value: true });
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<form
  class="rows"
  bind:this={form}
  onkeydown={keys}
  onsubmit={(e) => e.preventDefault()}
  onfocusout={(e) => !form?.contains(e.relatedTarget as Node) && void save()}
  onchange={(e) => (e.target as HTMLElement).matches("select, [type=checkbox]") && void tick().then(save)}
>
  {#if step.action && step.detail}
    <ParamFields pressed device={step.action.device} action={step.detail} bind:values={draft.params} {fields} />
    {#if step.kind === "do"}<p class="quiet bare">{step.detail.help}</p>{/if}
  {/if}
  {#if timed}
    <Amount
      label={step.kind === "fade" ? "over" : "time"}
      unit="s"
      min={0}
      step={0.1}
      id="step-seconds"
      bind:value={draft.seconds}
      disabled={(draft.frames ?? 0) > 0}
      error={fields.ms}
    />
    {#if step.kind === "wait"}<Amount label="or frames" min={0} bind:value={draft.frames} />{/if}
    {#if plays}
      <Act
        onclick={() => {
          draft.seconds = plays.playsMs / 1000;
          void save();
        }}>As long as “{plays.title}” plays: {time(plays.playsMs)}</Act
      >
    {/if}
  {/if}
  {#if step.kind === "fade"}
    <Choice
      label="curve"
      bind:value={draft.curve}
      choices={[
        { value: "", text: "even" },
        { value: "slow-start", text: "slow at the start" },
        { value: "slow-end", text: "slow at the end" },
      ]}
    />
  {/if}
  {#if step.kind === "do" || step.kind === "fade"}
    <Amount
      label="gap after"
      unit="ms"
      title="Nothing else of the macro is sent for so long after this step, where its device needs that."
      min={0}
      max={60000}
      step={10}
      id="step-gap"
      bind:value={draft.gap}
      error={fields.gapMs}
    />
  {/if}
  {#if conditional}
    {#if written}
      <Text label="while" bind:value={draft.when} error={fields.when} />
    {:else}
      {#each draft.sentences, i (i)}
        <div class="sentence">
          <SentenceFields
            bind:sentence={
              () => draft.sentences[i]!,
              (v) => {
                draft.sentences[i] = v;
                if (v.reading) void save();
              }
            }
            first={i === 0}
            near={[]}
            device={macro.doc?.lanes.find((l) => l.device !== "synaptor")?.device ?? "synaptor"}
          />
          <Act
            quiet
            aria-label="Take this sentence out"
            onclick={() => (draft.sentences = draft.sentences.filter((_, n) => n !== i))}>×</Act
          >
        </div>
      {/each}
      <Act data-sentence="add" onclick={() => (draft.sentences = [...draft.sentences, fresh()])}
        >{draft.sentences.length > 0
          ? "And, or …"
          : step.kind === "branch"
            ? "Say when this branch is in force"
            : "Say what is waited for"}</Act
      >
      {#if fields.when}<p class="wrong">{fields.when}</p>{/if}
    {/if}
  {/if}
  {#if step.kind === "wait-for"}
    <Amount label="at most" unit="s" min={0} step={0.5} bind:value={draft.limit} error={fields.limitMs} />
    <Choice
      label="then"
      bind:value={draft.else}
      choices={[
        { value: "", text: "stop the macro" },
        { value: "go-on", text: "go on" },
      ]}
    />
  {/if}
  {#if step.kind === "branch" && macro.lines.find((l) => l.id === step.parent)?.kind === "one-of"}
    <Amount label="weight" min={0} placeholder="1" bind:value={draft.weight} error={fields.weight} />
  {/if}
  {#if step.kind === "repeat"}
    <Amount label="times" min={1} max={100} bind:value={draft.count} error={fields.count} />
  {/if}
  {#if step.kind === "run"}
    <Choice
      label="macro"
      bind:value={draft.run}
      error={fields.run}
      choices={macro.rows.filter((m) => m.id !== macro.doc?.id).map((m) => ({ value: m.id, text: m.name }))}
    />
  {/if}
  <Text label="name" bind:value={draft.name} placeholder={step.title} error={fields.name} />
  <Text label="note" bind:value={draft.note} error={fields.note} />
  <Tick label="switched off" bind:checked={draft.off} />
</form>

<style>
  form {
    font-size: 0.8125rem;
  }
  .sentence {
    display: flex;
    gap: 0.4rem;
    align-items: start;
  }
</style>
