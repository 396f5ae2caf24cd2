<script lang="ts">
  import { untrack } from "svelte";
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
    seconds: (step.ms ?? 0) / 1000,
    frames: step.frames ?? 0,
    gap: step.gapMs ?? 0,
    limit: (step.limitMs ?? 0) / 1000,
    else: step.else ?? "",
    curve: step.curve ?? "",
    weight: step.weight || 1,
    count: step.count ?? 0,
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
  class="fields"
  bind:this={form}
  onkeydown={keys}
  onsubmit={(e) => e.preventDefault()}
  onfocusout={(e) => !form?.contains(e.relatedTarget as Node) && void save()}
  onchange={(e) => (e.target as HTMLElement).tagName === "SELECT" && void save()}
>
  {#if step.action && step.detail}
    <ParamFields device={step.action.device} action={step.detail} bind:values={draft.params} {fields} />
    {#if step.kind === "do"}<p class="quiet help">{step.detail.help}</p>{/if}
  {/if}
  {#if timed}
    <label
      ><span>{step.kind === "fade" ? "over, s" : "time, s"}</span>
      <input
        type="number"
        min="0"
        step="0.1"
        id="step-seconds"
        bind:value={draft.seconds}
        disabled={draft.frames > 0}
      /></label
    >
    {#if step.kind === "wait"}
      <label><span>or frames</span><input type="number" min="0" step="1" bind:value={draft.frames} /></label>
    {/if}
    {#if fields.ms}<p class="wrong">{fields.ms}</p>{/if}
    {#if plays}
      <button
        type="button"
        class="plain"
        onclick={() => {
          draft.seconds = plays.playsMs / 1000;
          void save();
        }}>As long as “{plays.title}” plays: {time(plays.playsMs)}</button
      >
    {/if}
  {/if}
  {#if step.kind === "fade"}
    <label
      ><span>curve</span>
      <select bind:value={draft.curve}
        ><option value="">even</option><option value="slow-start">slow at the start</option><option value="slow-end"
          >slow at the end</option
        ></select
      ></label
    >
  {/if}
  {#if step.kind === "do" || step.kind === "fade"}
    <label title="Nothing else of the macro is sent for so long after this step, where its device needs that."
      ><span>gap after, ms</span><input
        type="number"
        min="0"
        max="60000"
        step="10"
        id="step-gap"
        bind:value={draft.gap}
      /></label
    >
    {#if fields.gapMs}<p class="wrong">{fields.gapMs}</p>{/if}
  {/if}
  {#if conditional}
    {#if written}
      <label><span>while</span><input bind:value={draft.when} /></label>
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
          <button
            type="button"
            class="plain quiet"
            aria-label="Take this sentence out"
            onclick={() => (draft.sentences = draft.sentences.filter((_, n) => n !== i))}>×</button
          >
        </div>
      {/each}
      <button type="button" class="plain" onclick={() => (draft.sentences = [...draft.sentences, fresh()])}
        >{draft.sentences.length > 0
          ? "And, or …"
          : step.kind === "branch"
            ? "Say when this branch is in force"
            : "Say what is waited for"}</button
      >
    {/if}
    {#if fields.when}<p class="wrong">{fields.when}</p>{/if}
  {/if}
  {#if step.kind === "wait-for"}
    <label><span>at most, s</span><input type="number" min="0" step="0.5" bind:value={draft.limit} /></label>
    <label
      ><span>then</span>
      <select bind:value={draft.else}
        ><option value="">stop the macro</option><option value="go-on">go on</option></select
      ></label
    >
  {/if}
  {#if step.kind === "branch" && macro.lines.find((l) => l.id === step.parent)?.kind === "one-of"}
    <label><span>weight</span><input type="number" min="0" step="1" placeholder="1" bind:value={draft.weight} /></label>
  {/if}
  {#if step.kind === "repeat"}
    <label><span>times</span><input type="number" min="1" max="100" step="1" bind:value={draft.count} /></label>
    {#if fields.count}<p class="wrong">{fields.count}</p>{/if}
  {/if}
  {#if step.kind === "run"}
    <label
      ><span>macro</span>
      <select bind:value={draft.run}>
        {#each macro.rows.filter((m) => m.id !== macro.doc?.id) as m (m.id)}<option value={m.id}>{m.name}</option
          >{/each}
      </select></label
    >
  {/if}
  <label><span>name</span><input bind:value={draft.name} placeholder={step.title} /></label>
  <label><span>note</span><input bind:value={draft.note} /></label>
  {#if fields.name}<p class="wrong">{fields.name}</p>{/if}
  <label class="tick"
    ><input type="checkbox" bind:checked={draft.off} onchange={() => void save()} /> switched off</label
  >
</form>

<style>
  form {
    display: grid;
    gap: 0.3rem;
    font-size: 0.8125rem;
  }
  label {
    display: grid;
    grid-template-columns: 5rem 1fr;
    align-items: center;
    gap: 0.5rem;
    color: var(--quiet);
  }
  .tick {
    grid-template-columns: auto 1fr;
    justify-content: start;
  }
  .wrong {
    color: var(--finding);
  }
  .help {
    font-size: 0.75rem;
  }
  .sentence {
    display: flex;
    gap: 0.4rem;
    align-items: start;
  }
</style>
