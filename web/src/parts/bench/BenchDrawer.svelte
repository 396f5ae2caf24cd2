<script lang="ts">
  import { Button, TextInput, Toggle } from "carbon-components-svelte";
  import type { Component } from "svelte";
  import { api, type Faults, type FrontPanel, type StandIn } from "../../api/client";
  import { feed } from "../../live/feed.svelte";
  import { said } from "../../live/show.svelte";
  import CameraPanel from "./CameraPanel.svelte";
  import ChatPanel from "./ChatPanel.svelte";
  import FadersPanel from "./FadersPanel.svelte";
  import FootPanel from "./FootPanel.svelte";
  import IntercomPanel from "./IntercomPanel.svelte";
  import KeysPanel from "./KeysPanel.svelte";
  import LightsPanel from "./LightsPanel.svelte";
  import MeetingPanel from "./MeetingPanel.svelte";
  import MixerPanel from "./MixerPanel.svelte";
  import MusicPanel from "./MusicPanel.svelte";
  import NumericPanel from "./NumericPanel.svelte";
  import PlayerPanel from "./PlayerPanel.svelte";
  import PrompterPanel from "./PrompterPanel.svelte";
  import SlidesPanel from "./SlidesPanel.svelte";
  import StreamingPanel from "./StreamingPanel.svelte";
  import SwitcherPanel from "./SwitcherPanel.svelte";
  import TitlesPanel from "./TitlesPanel.svelte";
  import WorkstationPanel from "./WorkstationPanel.svelte";

  let { onclose }: { onclose: () => void } = $props();

  const panels: Record<string, Component<{ view: FrontPanel; address: string }>> = {
    streaming: StreamingPanel,
    switcher: SwitcherPanel,
    mixer: MixerPanel,
    intercom: IntercomPanel,
    lights: LightsPanel,
    camera: CameraPanel,
    player: PlayerPanel,
    chat: ChatPanel,
    titles: TitlesPanel,
    slides: SlidesPanel,
    prompter: PrompterPanel,
    meeting: MeetingPanel,
    music: MusicPanel,
    workstation: WorkstationPanel,
    keys: KeysPanel,
    faders: FadersPanel,
    numeric: NumericPanel,
    foot: FootPanel,
  };
  const short: Record<string, string> = {
    streaming: "Streaming",
    switcher: "Switcher",
    mixer: "Sound",
    intercom: "Intercom",
    lights: "Lights",
    camera: "Camera",
    player: "Player",
    chat: "Chat",
    titles: "Titles",
    slides: "Slides",
    prompter: "Prompter",
    meeting: "Meeting",
    music: "Music",
    workstation: "Computer",
    keys: "Keys",
    faders: "Faders",
    numeric: "Numbers",
    foot: "Pedals",
  };
  /** What is plugged into the computer: its cable can only be out. */
  const touched = ["faders", "numeric", "foot"];
  /** Those that ask who comes. */
  const guarded = ["streaming", "intercom", "lights", "chat", "meeting", "music"];
  let standIns = $state.raw<StandIn[]>([]);
  let asked = $state(false);
  let chosen = $state("switcher");

  $effect(() => {
    void feed.epoch;
    void api.GET("/api/v1/bench").then(({ data }) => {
      standIns = data?.standIns ?? [];
      asked = true;
    });
  });
  $effect(() => {
    feed.follow("bench", ["bench"]);
    return () => feed.follow("bench", []);
  });
  const view = $derived(feed.values.get(`bench/${chosen}`) as FrontPanel | undefined);
  const Panel = $derived(panels[chosen]);

  const numbers = [
    { field: "latencyMs", title: "Added latency, ms" },
    { field: "jitterMs", title: "Jitter, ms" },
    { field: "lossPercent", title: "Messages lost, %" },
  ] as const;

  async function restart() {
    said(
      await api.POST("/api/v1/bench/{standin}/restart", { params: { path: { standin: chosen } } }),
      "It is back in a moment, as it was delivered.",
    );
  }

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
        title="{s.title}, {s.address}"
        onclick={() => (chosen = s.id)}>{short[s.id] ?? s.title}</button
      >
    {/each}
  </div>
  {#if view && standIns.length > 0}
    <Panel {view} address={standIns.find((s) => s.id === chosen)?.address ?? ""} />
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
        {#if !touched.includes(chosen)}
          <Toggle
            size="sm"
            id="fault-silent"
            labelText="Silent"
            labelA="answers"
            labelB="says nothing"
            toggled={view.faults.silent}
            on:toggle={(e) => e.detail.toggled !== view.faults.silent && fault({ silent: e.detail.toggled })}
          />
        {/if}
        {#if guarded.includes(chosen)}
          <Toggle
            size="sm"
            id="fault-login"
            labelText="Sign-in"
            labelA="lets in"
            labelB="refuses all"
            toggled={view.faults.refuseLogin}
            on:toggle={(e) => e.detail.toggled !== view.faults.refuseLogin && fault({ refuseLogin: e.detail.toggled })}
          />
        {/if}
        {#if chosen !== "keys" && !touched.includes(chosen)}
          {#each numbers as f (f.field)}
            <TextInput
              size="sm"
              type="number"
              id="fault-{f.field}"
              labelText={f.title}
              value={view.faults[f.field]}
              on:change={(e) => {
                const n = Number(e.detail);
                if (n !== view.faults[f.field]) void fault({ [f.field]: n });
              }}
            />
          {/each}
        {/if}
      </div>
      <Button kind="ghost" size="small" on:click={restart}>Cut its power for a moment</Button>
    </section>
    <section>
      <h3>Last messages that reached it</h3>
      <ol class="mono">
        {#each view.recent.toReversed() as line, i (i)}<li>{line}</li>{:else}<li class="quiet">None yet.</li>{/each}
      </ol>
    </section>
  {:else if asked}
    <p class="quiet">The bench does not run in this Synaptor.</p>
  {/if}
</aside>

<style>
  aside {
    position: absolute;
    inset: 80px 0 0 auto;
    width: min(460px, 100vw);
    background: var(--sheet);
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
    flex-wrap: wrap;
    padding: 0 0.75rem 0.5rem;
  }
  .tabs button {
    border-bottom: 2px solid transparent;
    color: var(--quiet);
    font-size: 0.8125rem;
    padding: 0.3rem 0.45rem;
  }
  .tabs button[aria-selected="true"] {
    color: var(--text);
    border-color: var(--text);
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
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 0.75rem 1rem;
    align-items: end;
  }
  ol {
    line-height: 1.6;
    font-size: 0.75rem;
  }
</style>
