<script lang="ts">
  import None from "./form/None.svelte";
  import { Button } from "carbon-components-svelte";
  import { api, type PutBackPlan } from "../api/client";
  import { Answer } from "../live/answer.svelte";
  import { said } from "../live/show.svelte";
  import Popover from "./Popover.svelte";

  /** Lists what putting a press or a run back would return to what, before it is done. */
  let { entry, onclose, onleave }: { entry: string; onclose: () => void; onleave?: () => void } = $props();

  const answer = new Answer<PutBackPlan>();
  const plan = $derived(answer.of(entry));

  $effect(() => {
    const params = { path: { entry } };
    void answer.ask(entry, () => api.GET("/api/v1/putback/{entry}", { params }));
  });

  async function back() {
    if (said(await api.POST("/api/v1/putback/{entry}", { params: { path: { entry } } }))) onclose();
  }
</script>

<Popover title="Put back{plan ? ` “${plan.title}”` : ''}" {onclose}>
  {#if plan}
    {#if plan.returns.length > 0}
      <p>All of it returns at the same moment:</p>
      <ul class="returns">
        {#each plan.returns as r (r.title)}<li>{r.title}: {r.from} → <b>{r.to}</b></li>{/each}
      </ul>
    {:else}
      <p>There is nothing to put back: all is as it was, or somebody has changed it since.</p>
    {/if}
    {#if plan.left.length > 0}
      <p>This stays as it is:</p>
      <ul>
        {#each plan.left as l (l.title)}<li>{l.title}: {l.why}</li>{/each}
      </ul>
    {/if}
    <p class="buttons">
      <Button size="small" id="put-back-now" disabled={plan.returns.length === 0} on:click={back}>Put back now</Button>
      <Button size="small" kind="ghost" on:click={onleave ?? onclose}>Leave</Button>
    </p>
  {:else}
    <None waits={answer.waits(entry)} problem={answer.problem(entry)}>There is nothing to put back.</None>
  {/if}
</Popover>

<style>
  ul {
    margin: 0.3rem 0 0.7rem;
  }
  li {
    padding: 0.15rem 0 0.15rem 0.7rem;
    border-left: 2px solid var(--line);
  }
</style>
