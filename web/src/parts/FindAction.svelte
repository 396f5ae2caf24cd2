<script module lang="ts">
  import type { FindResult } from "../api/client";

  /** Something that can be chosen: what is found, or what is offered besides. */
  export interface Offer {
    title: string;
    help: string;
    found?: FindResult;
  }
</script>

<script lang="ts">
  import Text from "./form/Text.svelte";
  import { api } from "../api/client";
  import Glyph from "./Glyph.svelte";

  /** A field to say in any words what should be done, with the actions that are meant; the arrow keys go through them, Enter takes one. */
  let {
    id,
    label,
    placeholder,
    words = $bindable(""),
    more = [],
    gesture = "press",
    query = (w: string) => w.trim(),
    named = (f: FindResult) => f.title,
    above = false,
    ontake,
    onleave,
  }: {
    id: string;
    label: string;
    placeholder: string;
    words?: string;
    /** What is offered before what is found, where something is typed. */
    more?: Offer[];
    gesture?: string;
    /** What is searched for. */
    query?: (words: string) => string;
    /** What something that is found is called. */
    named?: (found: FindResult) => string;
    /** The list opens above the field. */
    above?: boolean;
    ontake: (offer: Offer, shift: boolean) => unknown;
    onleave?: () => void;
  } = $props();

  let found = $state.raw<FindResult[]>([]);
  /** Why nothing could be looked for. */
  let problem = $state("");
  let active = $state(0);
  let input = $state<Text>();
  let asked = 0;
  /** The search that was answered last, and Enter that was pressed before its answer was there: the first one is meant then. */
  let answered = 0;
  let wanted: { shift: boolean } | undefined;

  export function focus() {
    input?.focus();
  }

  const offers = $derived<Offer[]>(
    words.trim() ? [...more, ...found.map((f) => ({ title: named(f), help: f.deviceName, found: f }))] : [],
  );

  $effect(() => {
    const q = query(words);
    const turn = ++asked;
    wanted = undefined;
    if (!q) {
      found = [];
      problem = "";
      answered = turn;
      return;
    }
    const wait = setTimeout(async () => {
      const { data, error } = await api.GET("/api/v1/find", { params: { query: { q, gesture, page: "" } } });
      if (turn !== asked) return;
      found = (data ?? []).filter((r) => r.kind === "action" && !r.unusable).slice(0, 12);
      problem = error?.detail ?? "";
      active = 0;
      answered = turn;
      const first = offers[0];
      if (wanted && first) ontake(first, wanted.shift);
      wanted = undefined;
    }, 60);
    return () => clearTimeout(wait);
  });

  function onkeydown(e: KeyboardEvent) {
    const offer = offers[active];
    if (e.key === "ArrowDown" && offers.length > 0) active = Math.min(active + 1, offers.length - 1);
    else if (e.key === "ArrowUp" && offers.length > 0) active = Math.max(active - 1, 0);
    else if (e.key === "Enter" && answered !== asked && more.length === 0) wanted = { shift: e.shiftKey };
    else if (e.key === "Enter" && offer) ontake(offer, e.shiftKey);
    else if (e.key === "Escape" && words) words = "";
    else if (e.key === "Escape" && onleave) onleave();
    else if (e.key !== "Enter") return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<div class="find">
  <Text
    bind:this={input}
    bind:value={words}
    {id}
    role="combobox"
    aria-expanded={offers.length > 0}
    aria-controls="{id}-offers"
    autocomplete="off"
    hideLabel
    error={problem}
    {label}
    {placeholder}
    {onkeydown}
  />
  {#if offers.length > 0}
    <ul id="{id}-offers" class:above role="listbox" aria-label={label}>
      {#each offers as o, i (i)}
        <li role="presentation">
          <!-- A row of the list that the field above goes through. -->
          <button
            type="button"
            class:active={i === active}
            role="option"
            aria-selected={i === active}
            tabindex="-1"
            onclick={(e) => ontake(o, e.shiftKey)}
          >
            <Glyph name={o.found?.glyph ?? "macro"} size={16} />
            <span class="title">{o.title}</span>
            <span class="sub">{o.help}</span>
          </button>
        </li>
      {/each}
    </ul>
  {/if}
</div>

<style>
  .find {
    position: relative;
  }
  ul {
    position: absolute;
    inset: 100% 0 auto;
    max-height: 300px;
    overflow: auto;
    background: var(--menu);
    border: 1px solid var(--line);
    box-shadow: 0 0 30px #000a;
    z-index: 10;
  }
  .above {
    inset: auto 0 100%;
  }
  button {
    display: grid;
    grid-template-columns: 26px 1fr auto;
    gap: 0.2rem;
    align-items: center;
    width: 100%;
    text-align: left;
    font-size: 0.875rem;
    padding: 0.35rem 0.7rem;
  }
  button:hover,
  .active {
    background: var(--hover);
  }
  .active {
    box-shadow: inset 3px 0 var(--select);
  }
  .sub {
    font-size: 0.75rem;
    color: var(--quiet);
  }
</style>
