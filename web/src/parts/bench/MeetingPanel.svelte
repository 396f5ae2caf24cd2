<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The bench's meeting: a screen on a wall with who is there, what each of them does, and oneself. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("meeting");
  const text = (a: string) => String(view.values[a] ?? "");
  const is = (a: string) => view.values[a] === true;
  const guests = $derived(ids(view, /^\/guest\/(\d+)\/name$/));
  const joined = $derived(is("/joined"));
</script>

<Front
  dead={view.faults.cut}
  look="--body: #efe7f2; --ink: #33233a; --key: #fff; --lit: #6b3f7d; --lit-ink: #fff; --screen: #2a2130; --glow: #efdcf6"
>
  <p class="lcd">
    {joined ? `${text("/count")} in the meeting` : "not in the meeting"}{text("/speaker")
      ? `, ${text("/speaker")} speaks`
      : ""}
  </p>
  {#each guests as g (g)}
    {@const at = `/guest/${g}`}
    {@const name = text(`${at}/name`)}
    <div class="guest" class:away={!is(`${at}/here`)} class:speaks={text("/speaker") === name}>
      <b>{name}</b>
      <div class="keys">
        <button
          aria-pressed={is(`${at}/here`)}
          data-front="here/{g}"
          onclick={() => operate(`${at}/here`, !is(`${at}/here`))}>{is(`${at}/here`) ? "here" : "away"}</button
        >
        <button onclick={() => operate("/speaker", text("/speaker") === name ? "" : name)}>speaks</button>
        <button
          aria-pressed={is(`${at}/hand`)}
          data-front="hand/{g}"
          onclick={() => operate(`${at}/hand`, !is(`${at}/hand`))}>hand</button
        >
        <button aria-pressed={is(`${at}/muted`)} onclick={() => operate(`${at}/muted`, !is(`${at}/muted`))}
          >silent</button
        >
      </div>
    </div>
  {/each}
  <div class="keys">
    <span>Oneself:</span>
    <button aria-pressed={joined} data-front="join" onclick={() => operate("/joined", !joined)}
      >{joined ? "leave" : "join"}</button
    >
    <button aria-pressed={is("/me/muted")} onclick={() => operate("/me/muted", !is("/me/muted"))}>silent</button>
    <button aria-pressed={is("/me/camera")} onclick={() => operate("/me/camera", !is("/me/camera"))}>camera</button>
    <button onclick={() => operate("/others/silence")}>all silent</button>
  </div>
</Front>

<style>
  .guest {
    display: grid;
    grid-template-columns: 1fr auto;
    align-items: center;
    gap: 0.5rem;
    padding: 0.3rem 0.5rem;
    border-left: 4px solid transparent;
    background: #ffffff80;
  }
  .away b {
    opacity: 0.65;
    text-decoration: line-through;
  }
  .speaks {
    border-color: #6b3f7d;
  }
</style>
