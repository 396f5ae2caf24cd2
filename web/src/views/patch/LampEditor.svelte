<script lang="ts" module>
  import type { LampFields, Sentence } from "../../api/client";

  /** A lamp as it is edited. */
  export type LampDraft = LampFields;
</script>

<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Colour from "../../parts/form/Colour.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
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
    { value: "on-air", text: "on air" },
    { value: "preview", text: "preview" },
    { value: "armed", text: "armed" },
    { value: "set", text: "set" },
    { value: "", text: "no state, only" },
  ];

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

<section aria-label="Lamps">
  <h3>Lamps</h3>
  <p class="quiet">
    {path?.ownLamps
      ? "This key's own; the first that holds wins."
      : "As the action proposes. Change one and they are this key's own."}
    {#if path?.ownLamps}<Act onclick={onproposed}>Back to the action's</Act>{/if}
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
        <p class="buttons">
          <Act onclick={() => l.sentences?.push({ reading: "", is: "==", value: true })}>and …</Act>
          {#if l.sentences.length > 1}<Act onclick={() => l.sentences?.pop()}>without the last</Act>{/if}
        </p>
      {:else}
        <Text label="while" bind:value={() => l.when ?? "", (v) => (l.when = v)} error={fields[`lamps.${i}.when`]} />
      {/if}
      {#if l.sentences && fields[`lamps.${i}.when`]}<p class="wrong" role="alert">{fields[`lamps.${i}.when`]}</p>{/if}
      <div class="inline">
        <Choice
          label="show"
          choices={roles}
          error={fields[`lamps.${i}.role`]}
          bind:value={() => l.role ?? "", (v) => (l.role = (v || undefined) as typeof l.role)}
        />
        <Tick label="blinking" bind:checked={() => l.blink ?? false, (v) => (l.blink = v || undefined)} />
        <Colour
          label="Background of lamp {i + 1}"
          value={l.background ?? "#2b2d30"}
          oninput={(c) => (l.background = c)}
        />
        {#if l.background}<Act onclick={() => (l.background = undefined)}>as before</Act>
        {:else}<span class="quiet">as before</span>{/if}
      </div>
      {#if fields[`lamps.${i}.background`]}<p class="wrong">{fields[`lamps.${i}.background`]}</p>{/if}
      <Text
        label="labelled"
        placeholder="as always"
        maxlength={400}
        error={fields[`lamps.${i}.label`]}
        bind:value={() => l.label ?? "", (v) => (l.label = v || undefined)}
      />
      <p class="buttons">
        {#if i > 0}<Act onclick={() => move(i, -1)}>Earlier</Act>{/if}
        <Act onclick={() => draft.splice(i, 1)}>Take it away</Act>
      </p>
    </div>
  {:else}
    <p class="quiet">None: this key never shows a state.</p>
  {/each}
  <p class="buttons">
    <Act data-lamps="add" onclick={add}>Add a lamp</Act>
  </p>
  {#if dirty}
    <div class="buttons">
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
    grid-column: 1 / -1;
  }
  .lamp {
    border-left: 2px solid var(--edge);
    padding-left: 0.6rem;
    display: grid;
    gap: 0.35rem;
  }
</style>
