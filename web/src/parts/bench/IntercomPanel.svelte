<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's intercom: a desk station with a key strip for each party line. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("intercom");
  const v = (a: string) => view.values[a];
  const text = (a: string) => String(v(a) ?? "");
  const lines = $derived(ids(view, /^\/line\/(\d+)\/name$/));
  const stations = $derived(ids(view, /^\/station\/(\d+)\/name$/));
</script>

<Front
  dead={view.faults.cut}
  look="--body: #2c3833; --ink: #e3ebe4; --key: #47564f; --lit: #f2efe2; --lit-ink: #20260f; --screen: #c9d3a8; --glow: #20260f"
>
  <div class="display lcd">
    {#each lines as l (l)}
      <span>
        <b>{text(`/line/${l}/name`)}</b>
        {text(`/line/${l}/members`)} on{text(`/line/${l}/talker`) ? `, ${text(`/line/${l}/talker`)} talks` : ""}
      </span>
    {/each}
    {#if v("/muted") === true}<span>everything is muted</span>{/if}
  </div>
  <div class="strips">
    {#each lines as l (l)}
      <div class="strip">
        <button
          class="talk"
          aria-pressed={v(`/line/${l}/talk`) === true}
          data-front="talk/{l}"
          onclick={() => operate(`/line/${l}/talk`, v(`/line/${l}/talk`) !== true)}>talk</button
        >
        <button
          aria-pressed={v(`/line/${l}/listen`) === true}
          onclick={() => operate(`/line/${l}/listen`, v(`/line/${l}/listen`) !== true)}>listen</button
        >
        <input
          type="range"
          min="-60"
          max="12"
          value={Number(v(`/line/${l}/level`) ?? 0)}
          aria-label="Level of {text(`/line/${l}/name`)}"
          oninput={(e) => operate(`/line/${l}/level`, Number(e.currentTarget.value))}
        />
        <span class="tape">{text(`/line/${l}/name`)}</span>
      </div>
    {/each}
    <div class="strip calls">
      {#each stations as s (s)}
        <button
          class="call"
          class:rings={v(`/station/${s}/calling`) === true}
          onclick={() => operate(`/station/${s}/calling`, true)}>{text(`/station/${s}/name`)}</button
        >
      {/each}
    </div>
  </div>
  <div class="keys">
    <span>On the other side:</span>
    {#each stations.slice(1) as s (s)}
      {@const name = text(`/station/${s}/name`)}
      <button
        aria-pressed={text("/line/1/talker") === name}
        onclick={() => operate("/line/1/talker", text("/line/1/talker") === name ? "" : name)}>{name} talks</button
      >
    {/each}
    <button onclick={() => operate("/muted", v("/muted") !== true)}>mute all</button>
  </div>
</Front>

<style>
  .display {
    display: grid;
    gap: 1px;
    min-height: 3.4rem;
    box-sizing: border-box;
  }
  .strips {
    gap: 0.6rem;
  }
  .strip button {
    width: 100%;
  }
  .strip .talk {
    padding: 0.7rem 0.6rem;
  }
  .strip .rings {
    background: #ffb000;
    color: #2a1d00;
  }
</style>
