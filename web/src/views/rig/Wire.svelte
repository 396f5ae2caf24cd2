<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, type WireLine } from "../../api/client";
  import { said } from "../../live/show.svelte";
  import { timeOfDay } from "../../live/words.svelte";

  /** The raw messages of a device, out and in, as they pass. */
  let { device }: { device: string } = $props();

  const kept = 300;
  let lines = $state.raw<WireLine[]>([]);
  let paused = $state(false);
  let last = 0;

  $effect(() => {
    if (paused) return;
    let stop = false;
    let timer: ReturnType<typeof setTimeout>;
    async function look() {
      // Where Synaptor does not answer, the frame says so.
      const { data } = await api.GET("/api/v1/devices/{id}/wire", {
        params: { path: { id: device }, query: { after: last } },
      });
      if (stop) return;
      if (data?.length) {
        last = data.at(-1)?.seq ?? last;
        lines = [...lines, ...data].slice(-kept);
      }
      timer = setTimeout(look, 400);
    }
    void look();
    return () => {
      stop = true;
      clearTimeout(timer);
    };
  });

  const marks = { out: "→", in: "←", note: "·" } as const;

  async function copy() {
    const text = lines.map((l) => `${timeOfDay(l.at, true)} ${marks[l.dir]} ${l.text}`).join("\n");
    try {
      await navigator.clipboard.writeText(text);
      said({}, `${lines.length} messages are copied.`);
    } catch {
      said({ error: { type: "", title: "", status: 0, detail: "This browser does not let Synaptor copy." } });
    }
  }
</script>

<div class="wire">
  <p class="quiet">
    Newest first. Passwords and tokens are masked; the questions that keep the link alive are left out.
  </p>
  <div class="buttons">
    <Button size="small" kind="ghost" on:click={() => (paused = !paused)}>{paused ? "Go on" : "Pause"}</Button>
    <Button size="small" kind="ghost" disabled={lines.length === 0} on:click={copy}>Copy all</Button>
  </div>
  <ol class="mono">
    {#each lines.toReversed() as l, i (`${l.seq}/${i}`)}
      <li class={l.dir}>
        <span class="time quiet">{timeOfDay(l.at, true)}</span><span>{marks[l.dir]}</span><span class="text"
          >{l.text}</span
        >
      </li>
    {:else}
      <li class="quiet">Nothing has passed yet.</li>
    {/each}
  </ol>
</div>

<style>
  .wire {
    padding: 0.5rem 1rem 1rem;
  }
  ol {
    margin: 0.3rem 0 0;
    font-size: 0.6875rem;
  }
  li {
    display: grid;
    grid-template-columns: auto 1rem 1fr;
    gap: 0.4rem;
    padding: 0.1rem 0;
    border-top: 1px solid var(--hover);
  }
  .out {
    color: #fff;
  }
  .in {
    color: var(--quiet);
  }
  .note {
    color: var(--finding);
  }
  .text {
    overflow-wrap: anywhere;
  }
</style>
