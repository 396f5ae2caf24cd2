<script lang="ts">
  import { feed, presses, type Touch } from "./live/feed.svelte";
  import { Keyboard } from "./live/keyboard.svelte";
  import { OneController } from "./live/one.svelte";
  import { haltAll } from "./live/runs.svelte";
  import { show } from "./live/show.svelte";
  import { fitted } from "./live/upright";
  import { ago, clock } from "./live/words.svelte";
  import { api, type RollCallRow } from "./api/client";
  import Plate from "./parts/Plate.svelte";
  import TypeNow from "./parts/TypeNow.svelte";

  /** One controller, full screen: only its keys, for hands. */
  const one = new OneController("Panel");
  const { slug, faceOf } = one;
  const bar = 40;
  const head = 28;
  let width = $state(innerWidth);
  let height = $state(innerHeight);
  let pressed = $state<string[]>([]);

  const controller = $derived(one.controller);
  const shown = $derived(one.shown);
  const keyboard = new Keyboard(() => one.controller);
  /** Zones with more than one page, which can be gone through here. */
  const zones = $derived(
    controller
      ? controller.zones
          .map((zone) => ({ zone, pages: show.pagesOf(controller, zone), now: shown?.zones[zone]?.at(-1) ?? "" }))
          .filter((z) => z.pages.length > 1)
      : [],
  );
  /** Whose pages are shown: of each zone the page that is asked first, and what lies over it. */
  const pages = $derived(
    controller?.zones.map((z) => (shown?.zones[z] ?? []).map((p) => show.page(p)?.name ?? "").join(" › ")).join(", ") ??
      "",
  );
  const fit = $derived(controller && fitted(controller, width - 6, height - head - 6 - zones.length * bar));
  $effect(() => {
    if (!feed.connected) pressed = [];
  });
  /** The key that asks for a text, and what it asks for. */
  let asking = $state<{ control: string; asks: string } | undefined>();
  function touch(control: string, t: Touch) {
    if (!controller) return;
    const face = presses(t) ? faceOf(control) : undefined;
    if (face?.asks && t.edge === "up") asking = { control, asks: face.label };
    if (face?.asks) return;
    const ends = t.edge === "up" || t.edge === "cancel";
    if (ends && !pressed.includes(control)) return;
    const sent = feed.touch(slug, control, t, "panel");
    if (ends) pressed = pressed.filter((p) => p !== control);
    else if (t.edge === "down" && sent) pressed = [...pressed, control];
  }

  function go(page: string | undefined) {
    if (controller && page && feed.connected)
      void api.PUT("/api/v1/controllers/{id}/page", { params: { path: { id: controller.id } }, body: { page } });
  }

  // A swipe that begins beside the keys goes through the pages.
  let swipe: { x: number; y: number } | undefined;

  function swipeStart(e: PointerEvent) {
    swipe = (e.target as HTMLElement).closest("button") ? undefined : { x: e.clientX, y: e.clientY };
  }

  function swipeEnd(e: PointerEvent) {
    const z = zones[0];
    if (!swipe || !z) return;
    const dx = e.clientX - swipe.x;
    if (Math.abs(dx) > 60 && Math.abs(dx) > 2 * Math.abs(e.clientY - swipe.y)) {
      const at = z.pages.findIndex((p) => p.id === z.now);
      go(z.pages[at + (dx < 0 ? 1 : -1)]?.id);
    }
    swipe = undefined;
  }

  // A screen that goes dark is no help. Browsers allow this on loopback and over TLS only.
  let lock: WakeLockSentinel | undefined;
  async function stayAwake() {
    if (document.visibilityState !== "visible" || !("wakeLock" in navigator)) return;
    lock = await navigator.wakeLock.request("screen").catch(() => lock);
  }
  void stayAwake();

  const counting = $derived((feed.values.get("rollcall") as RollCallRow | undefined)?.on ?? false);
</script>

<svelte:window
  onkeydown={(e) => {
    if (!(e.ctrlKey || e.metaKey) || e.key !== ".") return;
    e.preventDefault();
    void haltAll();
  }}
  bind:innerWidth={width}
  bind:innerHeight={height}
  onblur={() => pressed.forEach((c) => touch(c, { edge: "cancel" }))}
/>
<svelte:document onvisibilitychange={stayAwake} />

<main class:lost={!feed.connected} onpointerdown={swipeStart} onpointerup={swipeEnd}>
  {#if controller}
    <header>
      <b>{controller.name}</b>
      <span>{pages}</span>
      {#if keyboard.caught}
        <em role="status">
          {keyboard.on
            ? "Keys are caught while this window is in front"
            : keyboard.front
              ? "Keys are not caught yet"
              : "Keys are not caught: this window is not in front"}
        </em>
      {/if}
      {#each one.away as d (d.device)}<strong role="status">{d.device} away {ago(d.since, clock.now)}</strong>{/each}
    </header>
    {#if fit}
      <Plate
        controller={fit.controller}
        keySize={fit.key}
        keyHeight={fit.keyHeight}
        {faceOf}
        whyNot={one.whyNot}
        {pressed}
        {shown}
        mode="press"
        ontouch={(c, t) => touch(c.id, t)}
      />
    {/if}
    {#each zones as z (z.zone)}
      <nav aria-label="Pages of the {z.zone}">
        {#each z.pages as p (p.id)}
          <button aria-current={p.id === z.now ? "page" : undefined} onclick={() => go(p.id)}>{p.name}</button>
        {/each}
      </nav>
    {/each}
  {:else}
    <p class="message">
      {show.problem
        ? "Synaptor does not answer. Trying again …"
        : show.doc
          ? `There is no controller “${slug}” in this show.`
          : "Loading …"}
      {#each show.doc?.controllers ?? [] as c (c.id)}<a href="/panel/{c.slug}">{c.name}</a>{/each}
    </p>
  {/if}
  {#if asking}
    {#key asking.control}<TypeNow controller={slug} {...asking} via="panel" ondone={() => (asking = undefined)} />{/key}
  {/if}
  {#if feed.connected && controller && !one.given}
    <p class="alarm" role="status">{controller.name} is not given to you. Presses do nothing.</p>
  {:else if feed.connected && counting}
    <p class="alarm" role="status">Roll call: touches are counted, and nothing is sent.</p>
  {:else if !feed.connected}
    <p class="alarm" role="alert">Not connected to Synaptor. Presses do nothing. Trying again …</p>
  {/if}
</main>

<style>
  main {
    height: 100dvh;
    display: grid;
    justify-items: center;
    grid-template-rows: 28px 1fr;
    align-items: center;
    overflow: hidden;
    position: relative;
    touch-action: none;
  }
  header {
    align-self: stretch;
    justify-self: stretch;
    display: flex;
    gap: 0.75rem;
    align-items: center;
    padding: 0 0.6rem;
    font-size: 0.8125rem;
    white-space: nowrap;
    overflow: hidden;
    color: var(--quiet);
  }
  header b {
    font-weight: 600;
    color: var(--text);
    flex: 0 1 auto;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  header span {
    flex: 1 1 2rem;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  header em {
    flex: 0 3 auto;
    font-style: normal;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  header strong {
    flex: none;
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0 0.5rem;
  }
  nav {
    height: 40px;
    max-width: 100%;
    display: flex;
    overflow-x: auto;
    scrollbar-width: none;
  }
  nav button {
    flex: none;
    min-width: 64px;
    padding: 0 0.9rem;
    border-bottom: 3px solid transparent;
    color: var(--quiet);
    font-size: 0.875rem;
  }
  nav button[aria-current] {
    color: var(--text);
    border-color: var(--text);
  }
  .lost nav,
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
    grid-row: 1 / -1;
    display: grid;
    gap: 1rem;
    color: var(--quiet);
    padding: 2rem;
  }
  .message a {
    color: var(--select);
  }
</style>
