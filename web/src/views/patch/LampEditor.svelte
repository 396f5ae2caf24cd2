<script lang="ts" module>
  import type { LampFields, Sentence } from "../../api/client";

  /** A lamp as it is edited. */
  export type LampDraft = LampFields;
</script>

<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import type { Path } from "../../api/client";
  import { notices } from "../../live/show.svelte";
  import SentenceFields from "./SentenceFields.svelte";

  /** The lamps of a mapping: each is a sentence, and what the key looks like while it holds. */
  let {
    path,
    fields,
    onsave,
    onproposed,
  }: {
    path: Path | undefined;
    fields: Record<string, string>;
    onsave: (lamps: LampDraft[]) => void;
    onproposed: () => void;
  } = $props();

  const roles = [
    { role: "on-air", title: "on air" },
    { role: "preview", title: "preview" },
    { role: "armed", title: "armed" },
    { role: "set", title: "set" },
    { role: "", title: "no state, only" },
  ] as const;

  const stored = (): LampDraft[] =>
    (path?.lamps ?? []).map((l) => ({
      ...l,
      sentences: l.sentences ?? undefined,
      when: l.sentences ? undefined : l.when,
    }));
  let draft = $state<LampDraft[]>([]);
  let base = "";
  $effect(() => {
    const now = JSON.stringify(stored());
    if (now === base) return;
    base = now;
    draft = stored();
  });
  const dirty = $derived(JSON.stringify(draft) !== JSON.stringify(stored()));

  function add() {
    const first = path?.readings[0]?.key ?? "";
    const sentences: Sentence[] = [{ reading: first, is: "==", value: true }];
    draft.push({ sentences, role: "set" });
  }

  function move(i: number, by: number) {
    const [l] = draft.splice(i, 1);
    if (l) draft.splice(i + by, 0, l);
  }

  function save() {
    const incomplete = draft.findIndex((l) => l.sentences?.some((s) => !s.reading || s.value === null));
    if (incomplete >= 0) {
      notices.add("refused", `Lamp ${incomplete + 1} is not complete yet: choose a reading and a value.`);
      return;
    }
    onsave($state.snapshot(draft));
  }
</script>

<section class="fields" aria-label="Lamps">
  <h3>Lamps</h3>
  <p class="quiet">
    {path?.ownLamps
      ? "This key's own; the first that holds wins."
      : "As the action proposes. Change one and they are this key's own."}
    {#if path?.ownLamps}<button class="plain" onclick={onproposed}>Back to the action's</button>{/if}
  </p>
  {#each draft as l, i (i)}
    <div class="lamp" data-lamp={i}>
      {#if l.sentences}
        {#each l.sentences as s, j (j)}
          <SentenceFields
            first={j === 0}
            bind:sentence={() => s, (v) => (l.sentences![j] = v)}
            near={path?.readings ?? []}
            device={path?.does[0]?.device ?? ""}
          />
        {/each}
        <p class="more">
          <button class="plain" onclick={() => l.sentences?.push({ reading: "", is: "==", value: true })}>and …</button>
          {#if l.sentences.length > 1}<button class="plain" onclick={() => l.sentences?.pop()}>without the last</button
            >{/if}
        </p>
      {:else}
        <label>While <input class="wide mono" bind:value={l.when} aria-label="Condition of lamp {i + 1}" /></label>
      {/if}
      {#if fields[`lamps.${i}.when`]}<p class="wrong" role="alert">{fields[`lamps.${i}.when`]}</p>{/if}
      <div class="shows">
        show
        <select bind:value={() => l.role ?? "", (v) => (l.role = v || undefined)} aria-label="State of lamp {i + 1}">
          {#each roles as r (r.role)}<option value={r.role}>{r.title}</option>{/each}
        </select>
        <label class="tick"
          ><input type="checkbox" bind:checked={() => l.blink ?? false, (v) => (l.blink = v || undefined)} /> blinking</label
        >
        <input
          type="color"
          aria-label="Background of lamp {i + 1}"
          title="Background while it holds"
          value={l.background ?? "#2b2d30"}
          class:unset={!l.background}
          oninput={(e) => (l.background = e.currentTarget.value)}
        />
        {#if l.background}<button class="plain" onclick={() => (l.background = undefined)}>as before</button>{/if}
      </div>
      <label class="say"
        >labelled
        <input
          class="wide"
          placeholder="as always"
          maxlength="400"
          bind:value={() => l.label ?? "", (v) => (l.label = v || undefined)}
        /></label
      >
      {#each ["label", "role", "background"] as f (f)}
        {#if fields[`lamps.${i}.${f}`]}<p class="wrong">{fields[`lamps.${i}.${f}`]}</p>{/if}
      {/each}
      <p class="more">
        {#if i > 0}<button class="plain" onclick={() => move(i, -1)}>Earlier</button>{/if}
        <button class="plain" onclick={() => draft.splice(i, 1)}>Take it away</button>
      </p>
    </div>
  {:else}
    <p class="quiet">None: this key never shows a state.</p>
  {/each}
  <p class="more">
    <button class="plain" data-lamps="add" onclick={add}>Add a lamp</button>
  </p>
  {#if dirty}
    <div class="more">
      <Button size="small" data-lamps="save" on:click={save}>Save the lamps</Button>
      <Button size="small" kind="ghost" on:click={() => (draft = stored())}>Leave as they were</Button>
    </div>
  {/if}
</section>

<style>
  section {
    border-top: 1px solid var(--line);
    padding-top: 0.6rem;
    display: grid;
    gap: 0.5rem;
  }
  p {
    font-size: inherit;
    margin: 0;
  }
  h3 {
    font-size: 0.875rem;
  }
  .lamp {
    border-left: 2px solid #5b636d;
    padding-left: 0.6rem;
    display: grid;
    gap: 0.35rem;
  }
  .shows,
  .more {
    display: flex;
    flex-wrap: wrap;
    gap: 0.6rem;
    align-items: center;
  }
  label {
    display: flex;
    gap: 0.5rem;
    align-items: center;
    color: var(--quiet);
  }
  .wide {
    flex: 1;
  }
  .unset {
    opacity: 0.4;
  }
  .wrong {
    color: var(--finding);
  }
</style>
