<script lang="ts">
  import None from "../../parts/form/None.svelte";
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type ActionDoc, type Device, type Entry } from "../../api/client";
  import ParamFields from "../../parts/ParamFields.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { ms } from "../../live/words.svelte";

  /** What a device can be told to do, to try each thing at once. */
  let { device }: { device: Device } = $props();

  const answer = new Answer<ActionDoc[]>();
  const actions = $derived(answer.of(device.id) ?? []);
  let chosen = $state("");
  let values = $state<Record<string, string>>({});
  let fields = $state<Record<string, string>>({});
  let problem = $state("");
  let result = $state.raw<Entry | undefined>();
  let turn = 0;

  $effect(() => {
    void feed.epoch;
    const params = { path: { id: device.id } };
    void answer.ask(device.id, () => api.GET("/api/v1/devices/{id}/actions", { params }));
  });
  const action = $derived(actions.find((a) => a.id === chosen));

  function choose(id: string) {
    chosen = chosen === id ? "" : id;
    const a = actions.find((x) => x.id === id);
    values = Object.fromEntries((a?.params ?? []).map((p) => [p.id, p.value || (p.choices[0]?.value ?? "")]));
    fields = {};
    problem = "";
    result = undefined;
    turn++;
  }

  async function attempt() {
    const { data, error } = await api.POST("/api/v1/devices/{id}/try", {
      params: { path: { id: device.id } },
      body: { action: chosen, params: values },
    });
    fields = fieldsOf(error);
    problem = error && Object.keys(fields).length === 0 ? error.detail : "";
    result = undefined;
    if (data) await follow(data.id, ++turn);
  }

  /** Reads what became of a try until it has come to its end. */
  async function follow(id: string, mine: number) {
    while (mine === turn) {
      const { data } = await api.GET("/api/v1/journal/{id}", { params: { path: { id } } });
      if (!data || mine !== turn) return;
      result = data;
      if (data.outcome !== "under way") return;
      await new Promise((done) => setTimeout(done, 100));
    }
  }
</script>

<ul>
  {#each actions as a (a.id)}
    <li class:open={a.id === chosen}>
      <!-- What opens a form in its row. -->
      <button class="head" data-action={a.id} aria-expanded={a.id === chosen} onclick={() => choose(a.id)}
        >{a.title}{#if a.risky}<span class="risky">can do harm</span>{/if}</button
      >
      {#if action && a.id === chosen}
        <form
          onsubmit={(e) => {
            e.preventDefault();
            void attempt();
          }}
        >
          <p class="quiet">{a.help}</p>
          <ParamFields device={device.id} {action} bind:values {fields} />
          {#if problem}<p class="wrong">{problem}</p>{/if}
          <div class="go">
            <Button size="small" kind="tertiary" type="submit">Try it now</Button>
            {#if result}
              <span class="outcome {result.outcome.replace(' ', '-')}" data-outcome={result.outcome}
                >{result.outcome}{result.latencyUs ? ` after ${ms(result.latencyUs)}` : ""}</span
              >
            {/if}
          </div>
          {#if result?.reason}<p class="reason">{result.reason}</p>{/if}
          {#each result?.steps.filter((s) => s.text.startsWith("The device answered:")) ?? [] as s, i (i)}
            <p class="mono">{s.text}</p>
          {/each}
        </form>
      {/if}
    </li>
  {:else}
    <li>
      <None waits={answer.waits(device.id)} problem={answer.problem(device.id)}>Its sheet offers no actions.</None>
    </li>
  {/each}
</ul>

<style>
  ul {
    padding: 0.5rem 1rem 1rem;
  }
  li {
    border-top: 1px solid var(--raster);
  }
  .head {
    width: 100%;
    text-align: left;
    background: none;
    border: 0;
    color: inherit;
    font: inherit;
    padding: 0.45rem 0;
    cursor: pointer;
    display: flex;
    justify-content: space-between;
    gap: 1rem;
  }
  .head:hover,
  .open .head {
    color: var(--link);
  }
  .risky {
    color: var(--armed);
  }
  form {
    display: grid;
    gap: 0.4rem;
    padding-bottom: 0.9rem;
  }
  .go {
    display: flex;
    gap: 1rem;
    align-items: center;
  }
  .refused,
  .dropped,
  .unconfirmed,
  .disagreed {
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0.1rem 0.5rem;
  }
</style>
