<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand } from "./operate";

  /** The bench's keys and dials, as they lie on the desk: what they show came over the wire. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("keys");
  const keys = ["a1", "b1", "c1", "d1", "a2", "b2", "c2", "d2"];
  const dials = ["dial1", "dial2"];
  const text = (a: string) => String(view.values[a] ?? "");
  const light = $derived(Number(view.values["/level"] ?? 1) * (view.values["/dimmed"] === true ? 0.3 : 1));
  let held = $state("");
  const letGo = () => {
    if (held) void operate(`/${held}`, "up");
    held = "";
  };
</script>

<svelte:window onpointerup={letGo} onpointercancel={letGo} />

<Front dead={view.faults.cut} look="--body: #262a2e; --ink: #cfd6dd; --key: #0b0d0f; --lit: #5b6670; --lit-ink: #fff">
  <div class="desk" style:--light={view.values["/connected"] === true ? light : 0.15}>
    <div class="keys">
      {#each keys as k (k)}
        <button
          class="key"
          data-front={k}
          class:down={held === k}
          title={text(`/${k}/words`)}
          aria-label="{k}: {text(`/${k}/words`)}"
          onpointerdown={() => ((held = k), void operate(`/${k}`, "down"))}
          onkeydown={(e) => (e.key === "Enter" || e.key === " ") && !e.repeat && operate(`/${k}`, "press")}
        >
          {#if text(`/${k}/picture`)}<img src={text(`/${k}/picture`)} alt="" draggable="false" />{/if}
        </button>
      {/each}
    </div>
    <div class="dials">
      {#each dials as d (d)}
        <div class="dial">
          <button aria-label="Turn {d} to the left" onclick={() => operate(`/${d}`, -1)}>◂</button>
          <button
            class="key"
            data-front={d}
            title={text(`/${d}/words`)}
            aria-label="{d}: {text(`/${d}/words`)}"
            onclick={() => operate(`/${d}`, "press")}
            onwheel={(e) => {
              e.preventDefault();
              void operate(`/${d}`, e.deltaY < 0 ? 1 : -1);
            }}
          >
            {#if text(`/${d}/picture`)}<img src={text(`/${d}/picture`)} alt="" draggable="false" />{/if}
          </button>
          <button aria-label="Turn {d} to the right" onclick={() => operate(`/${d}`, 1)}>▸</button>
        </div>
      {/each}
    </div>
  </div>
  <p class="quiet">{text("/text") || (view.values["/connected"] === true ? "Carried by the bridge." : "No bridge.")}</p>
</Front>

<style>
  .desk {
    display: flex;
    gap: 1rem;
    align-items: center;
  }
  .keys {
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 0.4rem;
    flex: 1;
  }
  .key {
    padding: 0;
    aspect-ratio: 1;
    overflow: hidden;
    touch-action: none;
  }
  .key.down {
    transform: translateY(1px);
  }
  img {
    width: 100%;
    display: block;
    filter: brightness(var(--light));
  }
  .dials {
    display: grid;
    gap: 0.4rem;
  }
  .dial {
    display: grid;
    grid-template-columns: auto 3.6rem auto;
    align-items: center;
    gap: 0.2rem;
  }
  .dial .key {
    border-radius: 50%;
  }
</style>
