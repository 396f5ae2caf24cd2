<script lang="ts">
  import type { FrontPanel } from "../../api/client";
  import { hand } from "./operate";

  /** The bench's audience, on its telephone: what it reads, and what it may do. */
  let { view }: { view: FrontPanel } = $props();

  const operate = hand("chat");
  const text = (a: string) => String(view.values[a] ?? "");
  let who = $state("Nachteule");
  let words = $state("");

  // What was said while this is open; the service itself keeps only the last message.
  let said = $state<{ who: string; text: string; n: string }[]>([]);
  $effect(() => {
    const n = text("/messages");
    if (text("/last/text") && said.at(-1)?.n !== n)
      said = [...said.slice(-5), { who: text("/last/who"), text: text("/last/text"), n }];
  });

  function send(e: SubmitEvent) {
    e.preventDefault();
    if (!words.trim()) return;
    void operate("/say", `${who}: ${words}`);
    words = "";
  }
</script>

<div class="phone" class:dead={view.faults.cut}>
  <div class="top"><span>{text("/viewers")} watch</span><span>{text("/followers")} follow</span></div>
  <div class="talk">
    {#each said as m (m.n)}
      <p class:own={m.who === "Larkfell"}><b>{m.who}</b> {m.text}</p>
    {:else}
      <p class="empty">Nobody has written yet.</p>
    {/each}
  </div>
  {#if text("/clip")}<p class="clip">{text("/clip")}</p>{/if}
  <form onsubmit={send}>
    <input class="who" bind:value={who} aria-label="Who writes" />
    <input bind:value={words} placeholder="Write as the audience" aria-label="What they write" />
    <button>Send</button>
  </form>
  <div class="quick">
    {#each ["!map", "!where"] as w (w)}<button onclick={() => operate("/say", `${who}: ${w}`)}>{w}</button>{/each}
    <button data-front="follow" onclick={() => operate("/follow", who)}>{who || "Somebody"} follows</button>
  </div>
</div>

<style>
  .phone {
    margin: 0 auto;
    width: 300px;
    padding: 0.9rem 0.8rem;
    border-radius: 22px;
    background: #f4f5fb;
    border: 7px solid #20233a;
    color: #1d2033;
    font-size: 0.8125rem;
  }
  .dead {
    filter: brightness(0.4);
  }
  .top {
    display: flex;
    justify-content: space-between;
    color: #555a78;
    font-size: 0.75rem;
  }
  .talk {
    min-height: 130px;
    display: flex;
    flex-direction: column;
    justify-content: flex-end;
    gap: 0.3rem;
    padding: 0.5rem 0;
  }
  p {
    margin: 0;
    padding: 0.3rem 0.6rem;
    border-radius: 10px;
    background: #dfe2f3;
    font-size: inherit;
    align-self: flex-start;
    max-width: 100%;
    overflow-wrap: anywhere;
  }
  .own {
    background: #3a4075;
    color: #fff;
    align-self: flex-end;
  }
  .empty,
  .clip {
    background: none;
    color: #555a78;
  }
  form,
  .quick {
    display: flex;
    gap: 0.3rem;
    margin-top: 0.4rem;
    min-width: 0;
  }
  input {
    min-width: 0;
    flex: 2;
    font: inherit;
    border: 1px solid #b9bed8;
    border-radius: 8px;
    padding: 0.25rem 0.4rem;
    color: inherit;
    background: #fff;
  }
  .who {
    flex: 1;
  }
  button {
    border: 0;
    border-radius: 8px;
    background: #dfe2f3;
    color: inherit;
    font: inherit;
    padding: 0.3rem 0.5rem;
    cursor: pointer;
  }
</style>
