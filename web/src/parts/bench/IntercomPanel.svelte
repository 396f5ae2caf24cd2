<script lang="ts">
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

<div class="station" class:dead={view.faults.cut}>
  <div class="display">
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
  <div class="others">
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
</div>

<style>
  .station {
    margin: 0 1rem;
    padding: 0.9rem;
    border-radius: 14px;
    background: #2c3833;
    border: 2px solid #1b231f;
    color: #e3ebe4;
    font-size: 0.75rem;
  }
  .dead {
    filter: brightness(0.5);
  }
  .display {
    display: grid;
    gap: 1px;
    background: #c9d3a8;
    color: #20260f;
    font-family: var(--mono);
    padding: 0.4rem 0.6rem;
    border-radius: 3px;
    min-height: 3.4rem;
  }
  .strips {
    display: grid;
    grid-template-columns: repeat(3, 1fr) 1.2fr;
    gap: 0.6rem;
    margin: 0.7rem 0;
  }
  .strip {
    display: grid;
    gap: 0.35rem;
    align-content: start;
    justify-items: center;
  }
  button {
    border: 0;
    border-radius: 4px;
    background: #47564f;
    color: inherit;
    font: inherit;
    padding: 0.35rem 0.6rem;
    cursor: pointer;
    width: 100%;
  }
  button[aria-pressed="true"] {
    background: #f2efe2;
    color: #20260f;
  }
  .talk {
    padding: 0.7rem 0.6rem;
  }
  .rings {
    background: #ffb000;
    color: #2a1d00;
  }
  .call {
    padding: 0.2rem 0.6rem;
  }
  input {
    width: 100%;
    accent-color: #f2efe2;
  }
  .tape {
    background: #f2efe2;
    color: #20260f;
    width: 100%;
    text-align: center;
    line-height: 1.5;
  }
  .others {
    display: flex;
    flex-wrap: wrap;
    gap: 0.35rem;
    align-items: center;
  }
  .others button {
    width: auto;
    padding: 0.15rem 0.5rem;
  }
</style>
