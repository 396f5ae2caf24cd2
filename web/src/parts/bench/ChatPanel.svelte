<script lang="ts">
  import Front from "./Front.svelte";
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

  const evening = $derived(Number(view.values["/evening/on"] ?? 0) === 1);
  const minutes = $derived(Math.floor(Number(view.values["/evening/at"] ?? 0) / 60));
  const speed = $derived(Number(view.values["/evening/speed"] ?? 1));

  function send(e: SubmitEvent) {
    e.preventDefault();
    if (!words.trim()) return;
    void operate("/say", `${who}: ${words}`);
    words = "";
  }
</script>

<Front dead={view.faults.cut} look="--body: #f4f5fb; --ink: #1d2033; --key: #dfe2f3; --lit: #3a4075; --lit-ink: #fff">
  <div class="top"><span>{text("/viewers")} watch</span><span>{text("/followers")} follow</span></div>
  <div class="talk">
    {#each said as m (m.n)}
      <p class:own={m.who === "Larkfell"}><b>{m.who}</b> {m.text}</p>
    {:else}
      <p class="empty">Nobody has written yet.</p>
    {/each}
  </div>
  {#if text("/clip")}<p class="clip">{text("/clip")}</p>{/if}
  <form class="keys" onsubmit={send}>
    <input class="who" bind:value={who} aria-label="Who writes" />
    <input bind:value={words} placeholder="Write as the audience" aria-label="What they write" />
    <button>Send</button>
  </form>
  <div class="keys">
    {#each ["!map", "!where"] as w (w)}<button data-front="say-{w}" onclick={() => operate("/say", `${who}: ${w}`)}
        >{w}</button
      >{/each}
    <button data-front="follow" onclick={() => operate("/follow", who)}>{who || "Somebody"} follows</button>
  </div>
  <div class="keys">
    <button data-front="evening" class:lit={evening} onclick={() => operate("/evening/on", evening ? 0 : 1)}
      >{evening ? `Stop the evening (minute ${minutes} of 40)` : "Play an evening"}</button
    >
    {#each [1, 10, 60] as s (s)}
      <button data-front="speed-{s}" class:lit={speed === s} onclick={() => operate("/evening/speed", s)}>× {s}</button>
    {/each}
  </div>
</Front>

<style>
  .top {
    display: flex;
    justify-content: space-between;
    color: #555a78;
  }
  .talk {
    min-height: 130px;
    display: flex;
    flex-direction: column;
    justify-content: flex-end;
    gap: 0.3rem;
  }
  p {
    padding: 0.3rem 0.6rem;
    border-radius: 10px;
    background: #dfe2f3;
    align-self: flex-start;
    max-width: 100%;
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
  form input {
    flex: 2;
  }
  form .who {
    flex: 1;
  }
</style>
