<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, type FixPreview, type WeighedFinding } from "../../api/client";
  import None from "../../parts/form/None.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { said } from "../../live/show.svelte";
  import { kindWords } from "../../live/words.svelte";
  import { holdsFocus } from "../../parts/focus";

  /** What the fix of a finding would change, before it does. */
  let { f, ondone }: { f: WeighedFinding; ondone: () => unknown } = $props();

  const answer = new Answer<FixPreview>();
  const about = $derived({ id: f.id, subject: f.subject, at: f.at ?? "", imprint: f.imprint });
  $effect(() => {
    void answer.ask(f.imprint, () => api.POST("/api/v1/preflight/preview", { body: about }));
  });
  const preview = $derived(answer.of(f.imprint));
  const what = { added: "is added", removed: "goes", changed: "changes" } as const;
  async function apply() {
    if (said(await api.POST("/api/v1/preflight/fix", { body: about }), `${f.fix?.title}. Undo takes it back.`))
      await ondone();
  }
</script>

<section aria-label="What the fix changes" {@attach holdsFocus}>
  {#if preview}
    <strong>{preview.title}</strong>
    <table>
      <tbody>
        {#each preview.changes as c (c.kind + c.id)}
          <tr
            ><th scope="row">{kindWords[c.kind] ?? c.kind} {c.title} {what[c.what]}</th><td
              >{#each c.values as v (v.field)}<div>
                  {v.field}: <s>{v.before || "nothing"}</s> → <b>{v.after || "nothing"}</b>
                </div>{/each}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    <p class="quiet">
      {preview.left.length === 1 ? "One thing is" : `${preview.left.length} things are`} found no more{#if preview.new.length}{" "}and
        this would be found then: {preview.new.join(" ")}{/if}.
    </p>
    <Button size="small" class="apply" on:click={apply}>Do it</Button>
  {:else}
    <None waits={answer.waits(f.imprint)} problem={answer.problem(f.imprint)}>Nothing would change.</None>
  {/if}
</section>

<style>
  section {
    grid-column: 1 / -1;
    padding: 0.6rem 0;
    display: grid;
    gap: 0.5rem;
    justify-items: start;
  }
  th {
    text-align: left;
    font-weight: 400;
    padding-right: 1.5rem;
    vertical-align: top;
  }
</style>
