<script lang="ts">
  import type { Sentence } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Text from "../../parts/form/Text.svelte";
  import SentenceFields from "../patch/SentenceFields.svelte";

  /** A condition as sentences; one that says more than those can is written. */
  let {
    id,
    word,
    source = $bindable(),
    list = $bindable(),
    written,
    event,
    device,
    error = "",
    add,
  }: {
    id: string;
    word: string;
    source: string;
    list: Sentence[] | undefined;
    /** It was stored as more than sentences can say. */
    written: boolean;
    event: string[] | undefined;
    device: string;
    error?: string;
    /** What leads to the first sentence. */
    add: string;
  } = $props();

  let byHand = $state((() => written)());
  const sentences = $derived(list ?? []);
  const fresh = (): Sentence =>
    event?.length
      ? { reading: `event:${event.includes("text") ? "text" : event[0]}`, is: "==", value: "" }
      : { reading: "", is: "==", value: true };
</script>

{#if byHand}
  <Text {id} label={word} bind:value={source} help="An expression, such as event.text == '!map'." {error} />
  <Act
    quiet
    onclick={() => {
      byHand = false;
      source = "";
    }}>Say it in sentences</Act
  >
{:else}
  {#each sentences, i (i)}
    <div class="sentence" data-condition={id}>
      <SentenceFields
        bind:sentence={
          () => sentences[i]!,
          (v) => {
            list = sentences.map((s, n) => (n === i ? v : s));
            source = "";
          }
        }
        first={i === 0}
        near={[]}
        {device}
        {word}
        {event}
      />
      <Act
        quiet
        aria-label="Take this sentence out"
        onclick={() => {
          list = sentences.filter((_, n) => n !== i);
          source = "";
        }}>×</Act
      >
    </div>
  {/each}
  <div class="buttons">
    <Act id="{id}-add" onclick={() => (list = [...sentences, fresh()])}>{sentences.length > 0 ? "And, or …" : add}</Act>
    {#if sentences.length === 0}<Act quiet onclick={() => (byHand = true)}>Write it</Act>{/if}
  </div>
  {#if error}<p class="wrong">{error}</p>{/if}
{/if}

<style>
  .sentence {
    display: flex;
    gap: 0.4rem;
    align-items: start;
  }
</style>
