<script lang="ts">
  import type { Face, Page, Show } from "./api/client";
  import { feed } from "./live/feed.svelte";
  import Plate from "./parts/Plate.svelte";

  /** One controller, full screen: only its keys, for hands. */
  const slug = location.pathname.split("/")[2] ?? "";
  let doc = $state.raw<Show | undefined>();
  let problem = $state("");
  let width = $state(innerWidth);
  let height = $state(innerHeight);
  let pressed = $state<string[]>([]);

  const controller = $derived(doc?.controllers.find((c) => c.slug === slug || c.aliases?.includes(slug)));
  const page = $derived<Page | undefined>(doc?.pages.find((p) => p.id === controller?.inForce));
  const byControl = $derived(
    new Map(
      (doc?.mappings ?? []).flatMap((m) =>
        m.placements.filter((p) => p.page === page?.id).map((p) => [p.control, m.id]),
      ),
    ),
  );
  const keySize = $derived(
    controller
      ? Math.floor(Math.min((width - 16) / (controller.columns * 1.083), (height - 16) / (controller.rows * 1.083)))
      : 0,
  );
  const faceOf = (control: string) => feed.values.get(`face/${byControl.get(control)}`) as Face | undefined;

  feed.start();
  $effect(() => feed.follow("panel", ["show", ...(doc?.pages.map((p) => `page:${p.id}`) ?? [])]));
  $effect(() => {
    void feed.epoch;
    void feed.values.get("show");
    void load();
  });
  $effect(() => {
    if (!feed.connected) pressed = [];
  });
  $effect(() => {
    document.title = `${controller?.name ?? "Panel"} · Synaptor`;
  });

  async function load() {
    try {
      const r = await fetch("/api/v1/show");
      if (!r.ok) throw new Error(String(r.status));
      doc = (await r.json()) as Show;
      problem = "";
    } catch {
      problem = "Synaptor does not answer. Trying again …";
    }
  }

  function edge(control: string, e: "down" | "up") {
    if (!controller) return;
    if (e === "down" ? feed.touch(slug, control, e, "panel") : pressed.includes(control)) {
      if (e === "up") feed.touch(slug, control, e, "panel");
      pressed = e === "down" ? [...pressed, control] : pressed.filter((p) => p !== control);
    }
  }

  // A screen that goes dark is no help. Browsers allow this on loopback and over TLS only.
  let lock: WakeLockSentinel | undefined;
  async function stayAwake() {
    if (document.visibilityState !== "visible" || !("wakeLock" in navigator)) return;
    lock = await navigator.wakeLock.request("screen").catch(() => lock);
  }
  void stayAwake();
</script>

<svelte:window bind:innerWidth={width} bind:innerHeight={height} onblur={() => pressed.forEach((c) => edge(c, "up"))} />
<svelte:document onvisibilitychange={stayAwake} />

<main class:lost={!feed.connected}>
  {#if controller}
    <Plate {controller} {keySize} {faceOf} {pressed} mode="press" onedge={(c, e) => edge(c.id, e)} />
  {:else}
    <p class="message">
      {problem || (doc ? `There is no controller “${slug}” in this show.` : "Loading …")}
      {#if doc && !controller}
        {#each doc.controllers as c (c.id)}<a href="/panel/{c.slug}">{c.name}</a>{/each}
      {/if}
    </p>
  {/if}
  {#if !feed.connected}
    <p class="alarm" role="alert">Not connected to Synaptor. Presses do nothing. Trying again …</p>
  {/if}
</main>

<style>
  main {
    height: 100dvh;
    display: grid;
    place-items: center;
    overflow: hidden;
    position: relative;
    touch-action: none;
  }
  .lost :global(.plate) {
    opacity: 0.35;
    pointer-events: none;
  }
  .alarm {
    position: absolute;
    inset: 0 0 auto 0;
    margin: 0;
    background: #fff;
    color: #000;
    font-weight: 600;
    text-align: center;
    padding: 0.8rem;
  }
  .message {
    display: grid;
    gap: 1rem;
    color: var(--quiet);
    padding: 2rem;
  }
  .message a {
    color: var(--select);
  }
</style>
