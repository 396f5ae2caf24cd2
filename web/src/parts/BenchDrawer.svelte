<script lang="ts">
  import { Button, TextInput, Toggle } from "carbon-components-svelte";
  import { api, type Faults, type FrontPanel, type StandIn } from "../api/client";
  import { feed } from "../live/feed.svelte";
  import { said } from "../live/show.svelte";
  import MixerPanel from "./MixerPanel.svelte";
  import SwitcherPanel from "./SwitcherPanel.svelte";

  let { onclose }: { onclose: () => void } = $props();

  const panels = { switcher: SwitcherPanel, mixer: MixerPanel } as const;
  let standIns = $state.raw<StandIn[]>([]);
  let chosen = $state<keyof typeof panels>("switcher");

  $effect(() => {
    void feed.epoch;
    void api.GET("/api/v1/bench").then(({ data }) => (standIns = data?.standIns ?? []));
  });
  $effect(() => {
    feed.follow("bench", ["bench"]);
    return () => feed.follow("bench", []);
  });
  const view = $derived(feed.values.get(`bench/${chosen}`) as FrontPanel | undefined);
  const Panel = $derived(panels[chosen]);

  async function fault(change: Partial<Faults>) {
    if (!view) return;
    said(
      await api.PUT("/api/v1/bench/{standin}/faults", {
        params: { path: { standin: chosen } },
        body: { ...view.faults, ...change },
      }),
    );
  }
</script>

<aside aria-label="Bench: simulated devices">
  <header>
    <h2>Bench</h2>
    <span class="quiet">simulated devices; nothing real is touched</span>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
  </header>
  <div class="tabs" role="tablist" aria-label="Simulated devices">
    {#each standIns as s (s.id)}
      <button
        role="tab"
        aria-selected={chosen === s.id}
        data-standin={s.id}
        title={s.address}
        onclick={() => (chosen = s.id as keyof typeof panels)}>{s.title}</button
      >
    {/each}
  </div>
  {#if view}
    <Panel {view} />
    <section class="faults">
      <h3>Faults of this device</h3>
      <div class="row">
        <Toggle
          size="sm"
          id="fault-cut"
          labelText="Cable out"
          labelA="connected"
          labelB="cut"
          toggled={view.faults.cut}
          on:toggle={(e) => e.detail.toggled !== view.faults.cut && fault({ cut: e.detail.toggled })}
        />
        <Toggle
          size="sm"
          id="fault-silent"
          labelText="Silent"
          labelA="answers"
          labelB="says nothing"
          toggled={view.faults.silent}
          on:toggle={(e) => e.detail.toggled !== view.faults.silent && fault({ silent: e.detail.toggled })}
        />
        <TextInput
          size="sm"
          type="number"
          id="fault-latency"
          labelText="Added latency, ms"
          value={view.faults.latencyMs}
          on:change={(e) => {
            const n = Number(e.detail);
            if (n !== view.faults.latencyMs) void fault({ latencyMs: n });
          }}
        />
      </div>
    </section>
    <section>
      <h3>Last messages that reached it</h3>
      <ol class="mono">
        {#each view.recent.toReversed() as line, i (i)}<li>{line}</li>{:else}<li class="quiet">None yet.</li>{/each}
      </ol>
    </section>
  {:else}
    <p class="quiet">The bench does not run in this Synaptor.</p>
  {/if}
</aside>

<style>
  aside {
    position: absolute;
    inset: 80px 0 0 auto;
    width: min(460px, 100vw);
    background: #15181b;
    border-left: 1px solid var(--line);
    z-index: 40;
    overflow: auto;
    box-shadow: -12px 0 40px #0008;
  }
  header {
    display: flex;
    align-items: center;
    gap: 0.75rem;
    padding: 0.5rem 0.5rem 0.5rem 1rem;
    font-size: 0.8125rem;
  }
  header :global(button) {
    margin-left: auto;
  }
  .tabs {
    display: flex;
    padding: 0 1rem 0.5rem;
    gap: 0.25rem;
  }
  .tabs button {
    background: none;
    border: 0;
    border-bottom: 2px solid transparent;
    color: var(--quiet);
    font: inherit;
    font-size: 0.8125rem;
    padding: 0.3rem 0.6rem;
    cursor: pointer;
  }
  .tabs button[aria-selected="true"] {
    color: var(--text);
    border-color: var(--text);
  }
  h2 {
    font-size: 1rem;
  }
  h3 {
    font-size: 0.8125rem;
    color: var(--quiet);
    font-weight: 400;
    margin-bottom: 0.5rem;
  }
  section {
    padding: 0.75rem 1rem;
  }
  .row {
    display: grid;
    grid-template-columns: 8rem 8.5rem minmax(0, 1fr);
    gap: 1rem;
    align-items: end;
  }
  ol {
    line-height: 1.6;
    font-size: 0.75rem;
  }
</style>
