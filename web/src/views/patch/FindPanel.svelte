<script lang="ts">
  import None from "../../parts/form/None.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Button, Search } from "carbon-components-svelte";
  import { api, type ActionDoc, type FindResult } from "../../api/client";
  import Glyph from "../../parts/Glyph.svelte";
  import ParamFields from "../../parts/ParamFields.svelte";
  import { feed } from "../../live/feed.svelte";
  import { begun } from "../../live/found";
  import { show } from "../../live/show.svelte";

  let {
    at,
    gesture,
    page,
    planned,
    goesOn = $bindable(),
    onchoose,
    ondrag,
    onclose,
  }: {
    at: string;
    gesture: string;
    /** The selected page, whose devices come first. */
    page: string;
    /** What is planned for the key: the words to begin with. */
    planned: string;
    /** A kit that does not fit goes on on a new page. */
    goesOn: boolean;
    onchoose: (r: FindResult) => void;
    ondrag: (r: FindResult, e: PointerEvent) => void;
    onclose: () => void;
  } = $props();

  let words = $state((() => planned)());
  // The plan of the next key is looked for when the selection goes on.
  let plannedBefore = (() => planned)();
  $effect(() => {
    if (planned === plannedBefore) return;
    if (words === plannedBefore || planned) words = planned;
    plannedBefore = planned;
  });
  let found = $state.raw<FindResult[]>([]);
  /** The words that the results are for; Enter on others waits for theirs. */
  let answered = $state<string | undefined>();
  const groupOf = (r: FindResult) => (r.recent ? "Used last" : r.deviceName);
  /** What is one and the same result, however often it is found. */
  const keyOf = (r: FindResult) => r.kind + r.device + r.id + JSON.stringify(r.params) + r.recent;
  /** The devices whose groups are folded, as it was left. */
  let folded = $state<string[]>(JSON.parse(localStorage.getItem("folded") ?? "[]"));
  function fold(group: string) {
    folded = folded.includes(group) ? folded.filter((g) => g !== group) : [...folded, group];
    localStorage.setItem("folded", JSON.stringify(folded));
    active = 0;
  }
  /** Without words, all there is in groups; a folded one shows its head only. */
  const grouped = $derived(answered === "");
  const results = $derived(grouped ? found.filter((r) => !folded.includes(groupOf(r))) : found);
  const groups = $derived(grouped ? [...new Set(found.map(groupOf))] : [""]);
  let problem = $state("");
  let active = $state(0);
  /** A risky one that Enter was pressed on once. */
  let armed = $state.raw<FindResult | undefined>();
  let asked = 0;
  /** The words that Enter was pressed on before their results were there; whoever types on has not meant it. */
  let entered: string | undefined;
  /** The action whose missing parameters are asked for, and what was chosen. */
  let open = $state.raw<{ result: FindResult; action: ActionDoc } | undefined>();
  const opened = $derived(open && keyOf(open.result));
  let chosen = $state<Record<string, string>>({});
  let input = $state<HTMLInputElement | null>(null);

  $effect(() => input?.focus());

  /** The words are about to be typed anew. */
  export function again() {
    input?.focus();
    input?.select();
  }

  $effect(() => {
    void feed.epoch;
    const q = words;
    const of = gesture;
    const on = page;
    const turn = ++asked;
    if (entered !== q) entered = undefined;
    const wait = setTimeout(async () => {
      const { data, error } = await api.GET("/api/v1/find", { params: { query: { q, gesture: of, page: on } } });
      if (turn !== asked) return;
      found = data ?? [];
      problem = error ? error.detail : "";
      active = 0;
      armed = undefined;
      if (open && !found.some((r) => keyOf(r) === opened)) open = undefined;
      answered = q;
      if (entered === q) enter();
    }, 60);
    return () => clearTimeout(wait);
  });

  let choices = 0;
  async function choose(r: FindResult) {
    if (r.unusable) return;
    const turn = ++choices;
    if (!r.missing?.length) {
      onchoose(r);
      input?.select(); // the next words replace these
      return;
    }
    const it = await begun(r, () => turn === choices);
    if (!it) return;
    chosen = it.params;
    open = { result: r, action: it.action };
  }

  function done(result: FindResult) {
    onchoose({ ...result, params: { ...result.params, ...chosen }, missing: [] });
    open = undefined;
    input?.select();
  }

  /** Enter: what is marked, once the results are those of the words. A risky one is asked for again. */
  function enter() {
    entered = answered === words ? undefined : words;
    const r = results[active];
    if (entered !== undefined || !r) return;
    if (r.risky && armed !== r) armed = r;
    else void choose(r);
  }

  function onkeydown(e: KeyboardEvent) {
    if (e.key === "ArrowDown") active = Math.min(active + 1, results.length - 1);
    else if (e.key === "ArrowUp") active = Math.max(active - 1, 0);
    else if (e.key === "Enter") {
      enter();
    } else if (e.key === "Escape") {
      onclose();
      e.stopPropagation();
    } else return;
    e.preventDefault();
    document.querySelector(`[data-result="${active}"]`)?.scrollIntoView({ block: "nearest" });
  }
</script>

<aside class="beside" aria-label="What should it do?">
  <header>
    <h2>What should <span class="mono">{at}</span> do?</h2>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
  </header>
  <Search
    bind:ref={input}
    bind:value={words}
    size="lg"
    labelText="Any words"
    placeholder="cam 2 on air, auto, program row …"
    on:keydown={onkeydown}
  />
  <p class="quiet help">Enter puts it on {at} and goes on to the next free key. Or drag it to a key.</p>
  <Tick label="A kit that does not fit goes on on a new page" bind:checked={goesOn} />
  {#if problem}<p class="problem">{problem}</p>{/if}
  <div class="all" aria-busy={answered !== words}>
    {#each groups as group (group)}
      {#if group}
        <!-- The head of a group, which folds it. -->
        <button class="group" aria-expanded={!folded.includes(group)} onclick={() => fold(group)}>{group}</button>
      {/if}
      {#if results.length > 0 && !folded.includes(group)}
        <ul role="listbox" aria-label={group || "Actions and kits"}>
          {#each results as r, i (keyOf(r))}
            {#if !group || groupOf(r) === group}
              {@render row(r, i)}
            {/if}
          {/each}
        </ul>
      {/if}
    {/each}
    {#if found.length === 0}
      <div class="none">
        <None waits={answered !== words}
          >{words
            ? `Nothing fits “${words}”. Try fewer words, or the name of the device.`
            : "No device offers anything yet. Add one in Rig."}</None
        >
      </div>
    {/if}
  </div>
</aside>

{#snippet row(r: FindResult, i: number)}
  <li role="presentation" data-result={i}>
    <!-- A row that can be dragged to a key. -->
    <button
      class="result"
      role="option"
      aria-selected={i === active}
      tabindex="-1"
      class:active={i === active}
      class:kit={r.kind === "kit"}
      disabled={!!r.unusable}
      data-find="{r.kind}:{r.id}:{Object.values(r.params).join(',')}"
      onclick={() => choose(r)}
      onpointerdown={(e) => e.button === 0 && !r.missing?.length && ondrag(r, e)}
    >
      <span class="glyph" style:color="var(--role-{r.role})"><Glyph name={r.glyph} size={18} /></span>
      <span class="title">{r.title}</span>
      <span class="tail">
        {#if answered}<span class="quiet">{r.deviceName}</span>{/if}
        {#if r.kind === "kit"}<span class="tag">kit</span>{/if}
      </span>
      <span class="sub"
        >{#if armed === r}<b class="armed" role="alert">Enter once more: this may cost something on air.</b
          >{:else}{r.unusable || r.help}{/if}
        {#if r.example && words === ""}<em>“{r.example}”</em>{/if}
        {#if r.device !== "synaptor" && show.link(r.device)?.phase !== "up"}<b>Not connected: as last known.</b
          >{/if}</span
      >
    </button>
  </li>
  {#if open && keyOf(r) === opened}
    <li role="presentation" class="params">
      <ParamFields pressed device={r.device} action={open.action} bind:values={chosen} />
      <Button
        size="small"
        disabled={open.action.params.some((p) => !chosen[p.id])}
        on:click={() => open && done(open.result)}>Put on {at}</Button
      >
    </li>
  {/if}
{/snippet}

<style>
  .help {
    padding: 0.5rem 1rem;
    font-size: 0.75rem;
  }
  .problem {
    padding: 0.5rem 1rem;
    color: var(--finding);
    font-size: 0.8125rem;
  }
  .all {
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  .group {
    width: 100%;
    text-align: left;
    padding: 0.6rem 1rem 0.3rem;
    font-size: 0.75rem;
    color: var(--quiet);
  }
  .group::before {
    content: "▾ ";
  }
  .group[aria-expanded="false"]::before {
    content: "▸ ";
  }
  .result {
    display: grid;
    grid-template-columns: 16px 1fr auto;
    width: 100%;
    text-align: left;
    background: none;
    border: 0;
    color: inherit;
    font: inherit;
    padding: 0.5rem 1rem;
    cursor: grab;
    touch-action: none;
    gap: 0.15rem 0.6rem;
  }
  .result:hover,
  .active {
    background: var(--hover);
  }
  .active {
    box-shadow: inset 3px 0 var(--select);
  }
  .result:disabled {
    opacity: 0.5;
    cursor: not-allowed;
  }
  .title {
    font-size: 0.875rem;
    overflow-wrap: anywhere;
  }
  .tail {
    display: flex;
    gap: 0.4rem;
    align-self: start;
    font-size: 0.75rem;
    white-space: nowrap;
  }
  .tag {
    border: 1px solid var(--line);
    border-radius: 3px;
    padding: 0 0.4rem;
  }
  .sub {
    grid-column: 2 / -1;
    font-size: 0.75rem;
    color: var(--quiet);
  }
  .armed {
    color: var(--armed);
  }
  .params {
    display: grid;
    gap: 0.5rem;
    padding: 0.4rem 1rem 0.8rem 2.6rem;
    font-size: 0.8125rem;
    justify-items: start;
  }
  .none {
    padding: 1rem;
    color: var(--quiet);
    font-size: 0.875rem;
  }
</style>
