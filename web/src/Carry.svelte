<script lang="ts">
  import { onMount } from "svelte";
  import { Carrier, type Carried, type HandsEvent } from "./live/carrier.svelte";
  import { feed } from "./live/feed.svelte";
  import type { Hardware } from "./api/client";

  /** A page that stays open and carries MIDI and game controls of this browser to Synaptor; it says what it carries. */
  let inputs = $state.raw<MIDIInput[]>([]);
  let outputs: MIDIOutput[] = [];
  let pads = $state.raw<Gamepad[]>([]);
  let midi = $state<"ask" | "asked" | "on" | "none" | "refused">("requestMIDIAccess" in navigator ? "ask" : "none");
  let visible = $state(document.visibilityState === "visible");

  const midiId = (i: MIDIInput) => `midi ${i.id}`;
  const padId = (p: Gamepad) => `pad ${p.index}`;
  const nameOf = (i: MIDIInput) => i.name || "MIDI";
  const carrier = new Carrier((to, bytes) => {
    const input = inputs.find((i) => midiId(i) === to);
    // A device has the same name in both directions.
    outputs.find((o) => o.name === input?.name)?.send(bytes);
  });
  feed.start();
  $effect(() => {
    feed.follow("carry", ["hardware"]);
    return () => {
      feed.follow("carry", []);
      carrier.end();
    };
  });

  async function ask() {
    midi = "asked";
    try {
      const access = await navigator.requestMIDIAccess();
      const look = () => {
        inputs = [...access.inputs.values()].filter((i) => i.state === "connected");
        outputs = [...access.outputs.values()];
        for (const i of inputs) i.onmidimessage = (e) => e.data && carrier.midi(midiId(i), e.data);
      };
      access.onstatechange = look;
      look();
      midi = "on";
    } catch {
      midi = "refused";
    }
  }
  // Where it was allowed before, nobody has to press anything.
  onMount(() => {
    if (midi !== "ask") return;
    void navigator.permissions
      ?.query({ name: "midi" as PermissionName })
      .then((p) => (p.state === "granted" ? ask() : undefined))
      .catch(() => undefined);
  });

  const stands = (p: Gamepad): HandsEvent[] =>
    p.axes.map((value, i) => ({ source: `axis ${i}`, edge: "at", value, low: -1, high: 1 }));
  $effect(() => {
    carrier.plug([
      ...inputs.map((i): Carried => ({ id: midiId(i), kind: "midi-here", name: nameOf(i), place: i.id })),
      ...pads.map((p): Carried => ({
        id: padId(p),
        kind: "gamepad",
        name: p.id.slice(0, 100),
        place: `${p.index}`,
        axes: stands(p),
      })),
    ]);
  });

  /** What a game control said last. */
  const before = new Map<number, { buttons: boolean[]; axes: number[] }>();
  function poll() {
    const now = navigator.getGamepads().filter((p) => p !== null && p.connected) as Gamepad[];
    if (now.map((p) => p.index + p.id).join() !== pads.map((p) => p.index + p.id).join()) pads = now;
    for (const p of now) {
      const was = before.get(p.index) ?? { buttons: p.buttons.map((b) => b.pressed), axes: [...p.axes] };
      const events: HandsEvent[] = [];
      p.buttons.forEach((b, i) => {
        if (b.pressed !== was.buttons[i]) events.push({ source: `button ${i}`, edge: b.pressed ? "down" : "up" });
      });
      p.axes.forEach((value, i) => {
        if (value !== was.axes[i]) events.push({ source: `axis ${i}`, edge: "at", value, low: -1, high: 1 });
      });
      before.set(p.index, { buttons: p.buttons.map((b) => b.pressed), axes: [...p.axes] });
      if (events.length > 0) carrier.events(padId(p), events);
    }
    frame = requestAnimationFrame(poll);
  }
  let frame = requestAnimationFrame(poll);
  $effect(() => () => cancelAnimationFrame(frame));

  /** Browsers do not say how game controls stand while a page is hidden: what is held is let go. */
  function seen() {
    visible = document.visibilityState === "visible";
    if (!visible) for (const p of pads) carrier.release(padId(p));
  }
  const rows = $derived([
    ...inputs.map((i) => ({ name: nameOf(i), place: i.id, what: "MIDI" })),
    ...pads.map((p) => ({ name: p.id.slice(0, 100), place: `${p.index}`, what: "a game control" })),
  ]);
  const all = $derived([...feed.of("hardware").values()].map((value) => value as Hardware));
  const told = (r: { name: string; place: string }) => all.find((h) => h.match === r.name && h.place === r.place);
</script>

<svelte:document onvisibilitychange={seen} />

<main>
  <h1>Hardware of this browser</h1>
  <p class="quiet">
    This page carries MIDI and game controls to Synaptor for as long as it stays open. Attach them in Rig, Controllers.
  </p>
  {#if !carrier.connected}<p class="lost" role="alert">Not connected to Synaptor. Trying again …</p>{/if}
  {#if carrier.problem}<p class="lost" role="alert">{carrier.problem}</p>{/if}
  {#if pads.length > 0 && !visible}<p role="status">Game controls are heard only while this page is visible.</p>{/if}
  <ul>
    {#each rows as r (r.what + r.name + r.place)}
      {@const h = told(r)}
      <li data-carried={r.name}>
        <b>{r.name}</b>
        <span class="quiet">{r.what}, {h?.link ? "attached" : "attached to nothing yet"}</span>
        {#if h?.problem}<span>{h.problem}</span>{/if}
        {#if h?.last}<span class="mono">{h.last.control} {h.last.edge}</span>
          <span>{h.last.to ? `→ ${h.last.to}` : h.last.why}</span>{/if}
      </li>
    {:else}
      <li class="quiet">Nothing is carried yet.</li>
    {/each}
  </ul>
  {#if midi === "ask"}
    <button id="midi" onclick={ask}>Carry MIDI devices</button>
  {:else if midi === "asked"}
    <p role="status">The browser asks whether this page may use MIDI.</p>
  {:else if midi === "refused"}
    <p role="status">
      The browser does not let this page use MIDI. Allow it in the settings of the page, then load it again.
    </p>
  {:else if midi === "none"}
    <p role="status">
      {isSecureContext
        ? "This browser has no MIDI."
        : "Browsers give a page MIDI and game controls only over TLS, or on the same computer."}
    </p>
  {/if}
  <p class="quiet">A game control is seen once one of its buttons is pressed, and only while this page is visible.</p>
</main>

<style>
  main {
    max-width: 44rem;
    margin: 0 auto;
    padding: 1.5rem 1rem;
    display: grid;
    gap: 0.9rem;
    justify-items: start;
  }
  h1 {
    font-size: 1.25rem;
  }
  ul {
    width: 100%;
  }
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 0.75rem;
    padding: 0.6rem 0;
    border-bottom: 1px solid var(--edge);
  }
  .lost {
    background: #fff;
    color: #000;
    padding: 0.4rem 0.7rem;
    margin: 0;
  }
  button {
    padding: 0.6rem 1rem;
    border: 1px solid var(--select);
    color: var(--text);
  }
</style>
