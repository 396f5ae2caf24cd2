<script lang="ts">
  import { onMount } from "svelte";
  import { api, fieldsOf, type Addresses, type Entry } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Narrow from "./Narrow.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { onWhat, type People } from "../../live/people.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock, timeOfDay } from "../../live/words.svelte";

  /** Gives a panel to somebody: what it may press, the code that lets it in, and the proof that it can reach Synaptor. */
  let {
    people,
    id = "",
    controller = "",
    onmade,
    onclose,
  }: {
    people: People;
    /** The panel that is given; empty: a new one, which onmade hears of. */
    id?: string;
    /** The controller that a new panel is to press. */
    controller?: string;
    onmade?: (id: string) => void;
    onclose?: () => void;
  } = $props();

  let name = $state("");
  let error = $state("");
  let tonight = $state(true);
  let looks = $state(false);
  let chosen = $state<string[] | undefined>();
  const controllers = $derived(chosen ?? (controller ? [controller] : []));
  const all = $derived(show.doc?.controllers ?? []);

  async function make(e: SubmitEvent) {
    e.preventDefault();
    const body = {
      name,
      role: looks ? ("viewer" as const) : ("operator" as const),
      panel: true,
      tonight,
      ...(!looks && controllers.length > 0 && { rights: { controllers, changes: null } }),
    };
    const r = await api.POST("/api/v1/people", { body });
    error = fieldsOf(r.error)["name"] ?? "";
    if (error || !said(r) || !r.data) return;
    name = "";
    await people.load();
    onmade?.(r.data.id);
  }

  // What is open says which address the panel can use.
  let doors = $state.raw<Addresses | undefined>();
  const open = $derived(doors?.rows.filter((r) => r.wide && r.url) ?? []);
  let through = $state("");
  const origin = $derived(open.find((r) => r.url === through)?.url ?? open[0]?.url ?? location.origin);

  const who = $derived(people.doc?.people.find((p) => p.id === id));
  const pairing = $derived(people.doc?.pairings.find((p) => p.panel === id));
  const sessions = $derived(people.doc?.sessions.filter((s) => s.person === id) ?? []);
  let presses = $state.raw<Entry[]>([]);
  async function pair() {
    said(await api.POST("/api/v1/people/{id}/pairing", { params: { path: { id } } }));
    await people.load();
  }
  async function takeBack() {
    said(await api.DELETE("/api/v1/people/{id}/sessions", { params: { path: { id } } }), `${who?.name} is taken back.`);
    await people.load();
    onclose?.();
  }
  async function look() {
    const { data } = await api.GET("/api/v1/journal", { params: { query: { limit: 200 } } });
    presses = data?.filter((e) => e.actor === who?.name && e.control).slice(0, 5) ?? [];
  }
  onMount(() => {
    void api.GET("/api/v1/addresses").then(({ data }) => (doors = data));
    if (!id) return;
    if (!pairing && sessions.length === 0) void pair();
    void look();
    const again = setInterval(() => void look(), 3000);
    return () => clearInterval(again);
  });
</script>

{#if !id}
  <form onsubmit={make}>
    <Text id="panel-name" label="Name of a new panel" bind:value={name} maxlength={80} {error} />
    <Tick id="panel-looks" label="It only looks, and presses nothing" bind:checked={looks} />
    {#if !looks}
      <div>
        <p class="quiet">It presses, and nothing else; none ticked means all:</p>
        {#each all as c (c.id)}
          <Tick
            label={c.name}
            data-gives={c.slug}
            checked={controllers.includes(c.id)}
            onchange={(on) => (chosen = on ? [...controllers, c.id] : controllers.filter((o) => o !== c.id))}
          />
        {/each}
      </div>
    {/if}
    <Tick id="panel-tonight" label="For tonight: its right ends by itself after 16 hours" bind:checked={tonight} />
    <Act submit id="panel-make" disabled={!name.trim()}>Hand over …</Act>
  </form>
{:else if who}
  <p><strong>{who.name}</strong>{who.until ? `, until ${timeOfDay(who.until).slice(0, 5)}` : ""}</p>
  {#if pairing}
    {#if open.length === 0}
      <p class="wrong">
        Only this computer can reach Synaptor now. Open an address in Rig, This Synaptor, before you hand the panel
        over.
      </p>
    {:else if open.length > 1}
      <Choice
        id="pair-through"
        label="It reaches Synaptor by"
        value={origin}
        choices={open.map((r) => ({ value: r.url, text: `${r.words}, ${r.address}` }))}
        onchange={(to) => (through = to)}
      />
    {/if}
    <img
      class="qr"
      src="/api/v1/qr.svg?text={encodeURIComponent(origin + pairing.link)}"
      alt="The way in for {who.name} as a QR code"
    />
    {#if pairing.code}
      <p>
        Scan it, or open <span class="mono told">{origin}/pair</span> and type
        <strong class="digits" data-code>{pairing.code.slice(0, 3)} {pairing.code.slice(3)}</strong>
      </p>
    {:else}
      <p class="wrong">There were five wrong tries: the six digits are not good any more.</p>
    {/if}
    {#if doors?.tls.mode === "own" && doors.tls.fingerprint}
      <p class="quiet">
        Its browser will warn once, since it does not know this Synaptor's authority. The fingerprint of the authority
        is <span class="mono told">{doors.tls.fingerprint}</span>
      </p>
    {/if}
    {#each pairing.reached as r (r.address + r.agent)}
      <p data-reached role="status">
        {onWhat(r.agent)} at <span class="mono">{r.address}</span> has opened it {ago(r.at, clock.now)} ago: it reaches Synaptor.
        Go on there.
      </p>
    {:else}
      <p class="quiet" role="status">
        Nothing has opened it yet.{#if open.length > 1}{" "}When a tablet cannot, it is in another network: choose
          another address above.{/if}
      </p>
    {/each}
    <Act onclick={pair}>New code</Act>
  {:else if sessions.length > 0}
    <p data-paired role="status">
      Paired: {onWhat(sessions[0]?.agent ?? "")} at <span class="mono">{sessions[0]?.address}</span>
    </p>
    <Act onclick={pair}>Pair another one in its place</Act>
  {:else}
    <p class="quiet">The code is not good any more.</p>
    <Act onclick={pair}>New code</Act>
  {/if}
  {#if who.role === "operator"}<Narrow {who} onset={people.load} />{/if}
  {#if presses.length > 0}
    <p class="quiet">Pressed last:</p>
    <ul data-presses>
      {#each presses as e (e.id)}<li>{timeOfDay(e.at)} {e.title}, {e.outcome}</li>{/each}
    </ul>
  {/if}
  <div class="buttons">
    <Act id="panel-back" onclick={takeBack}>Take back</Act>
    <Act quiet onclick={() => onclose?.()}>Done</Act>
  </div>
{/if}

<style>
  .digits {
    display: block;
    font-family: var(--mono);
    font-size: 2.5rem;
    line-height: 1.4;
    letter-spacing: 0.06em;
  }
  ul {
    padding-left: 1rem;
  }
</style>
