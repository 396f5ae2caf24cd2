<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, type Overlay, type OverlayAddress } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import None from "../../parts/form/None.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";
  import OverlayForm from "./OverlayForm.svelte";
  import OverlayStage from "./OverlayStage.svelte";

  /** What the audience reads on the picture: where it is, what it says, and the address that streaming software takes it in at. */
  let { onclose }: { onclose: () => void } = $props();

  const answer = new Answer<Overlay[]>();
  const list = $derived(answer.of("all") ?? []);
  const load = () => answer.ask("all", () => api.GET("/api/v1/overlays"));
  const where = new Answer<OverlayAddress>();
  const address = $derived(where.of("it"));
  const find = () => where.ask("it", () => api.GET("/api/v1/overlay-address"));
  $effect(() => {
    void [feed.epoch, feed.values.get("show")];
    void load();
  });
  $effect(() => {
    void [feed.epoch, feed.values.get("overlay-open")];
    void find();
  });
  $effect(() => {
    feed.follow("overlays", ["readings:synaptor", "overlays"]);
    return () => feed.follow("overlays", []);
  });
  const reading = (path: string) =>
    (feed.values.get(`reading/synaptor:${path}`) as { value?: unknown } | undefined)?.value;
  const value = (id: string, what: string) => {
    const timer = what === "text" && list.find((o) => o.id === id)?.timer;
    return timer ? reading(`timer/${timer}/text`) : reading(`overlay/${id}/${what}`);
  };

  /** The id of the overlay that is edited; "new", or empty: none is. */
  let open = $state("");
  const current = $derived(list.find((o) => o.id === open));

  async function act(o: Overlay, action: string) {
    const params = { path: { id: "synaptor" } };
    said(await api.POST("/api/v1/devices/{id}/try", { params, body: { action, params: { overlay: o.id } } }));
  }
  /** Puts an overlay elsewhere; said where that failed. */
  async function put(o: Overlay, to: { x: number; y: number }) {
    const { id, position: _, outside: _o, unreadable: _u, ...rest } = o;
    said(await api.PUT("/api/v1/overlays/{id}", { params: { path: { id } }, body: { ...rest, ...to } }));
    await load();
  }
  async function remove(o: Overlay) {
    said(
      await api.DELETE("/api/v1/overlays/{id}", { params: { path: { id: o.id } } }),
      `${o.name} is removed. Undo brings it back.`,
    );
    if (open === o.id) open = "";
    await load();
  }
  const url = $derived(address?.path ? location.origin + address.path : "");
  async function renew() {
    said(await api.POST("/api/v1/overlay-address"), "The address is new. Whatever has the old one shows nothing more.");
    await find();
  }
  async function takeBack() {
    said(await api.DELETE("/api/v1/overlay-address"), "There is no address. Whatever had it shows nothing more.");
    await find();
  }
  let copied = $state(false);
  async function copy() {
    await navigator.clipboard.writeText(url);
    copied = true;
    setTimeout(() => (copied = false), 2000);
  }
  /** Streaming software whose picture can be looked at, with the scene that it has on program. */
  const stream = $derived(show.doc?.devices.find((d) => d.role === "streaming" && show.link(d.id)?.phase === "up"));
  const scene = $derived(
    (feed.values.get(`reading/${stream?.id}:program/scene`) as { value?: unknown } | undefined)?.value,
  );
  $effect(() => {
    const topics = stream ? [`readings:${stream.id}`] : [];
    feed.follow("overlay-scene", topics);
    return () => feed.follow("overlay-scene", []);
  });
  let turn = $state(0);
  $effect(() => {
    const t = setInterval(() => (turn += 1), 500);
    return () => clearInterval(t);
  });
</script>

<section class="overlays" aria-label="Overlays" data-help="parts/overlays">
  <header>
    <h1>Overlays</h1>
    <span class="quiet">what the audience reads on the picture</span>
    <Button size="small" kind="ghost" on:click={onclose}>Back to the devices</Button>
  </header>
  <div class="address">
    {#if url}
      <code class="mono cut" id="overlay-address">{url}</code>
      <Act onclick={copy}>{copied ? "Copied" : "Copy"}</Act>
      <Act quiet id="overlay-renew" onclick={renew}>New address</Act>
      <Act quiet id="overlay-back" onclick={takeBack}>Take it back</Act>
      <p class="quiet">
        Your streaming software takes this in as a web page, 1920 by 1080. Whoever knows it reads what the audience
        reads, and nothing else.
        {#if address && address.open.length > 0}
          Open at {address.open.map((g) => `${g.from}, for ${ago(g.since, clock.now)}`).join("; ")}.
        {:else}Nobody has it open.{/if}
      </p>
    {:else}
      <p>There is no address yet at which streaming software could take the overlays in.</p>
      <Button size="small" id="overlay-make" on:click={renew}>Make an address</Button>
    {/if}
  </div>
  <div class="pictures">
    <OverlayStage {list} safe={address?.safe ?? 0} {value} {open} onopen={(id) => (open = id)} onput={put} />
    {#if stream && scene}
      <figure>
        <img
          src="/api/v1/pictures/{stream.slug}/scene-{scene}?rate=2&turn={turn}"
          alt="What {stream.name} has on program"
        />
        <figcaption class="quiet">What {stream.name} has on program</figcaption>
      </figure>
    {/if}
  </div>
  <div class="rest">
    <ul>
      {#each list as o (o.id)}
        {@const shown = value(o.id, "shown") === true}
        <li data-overlay={o.name} class:current={open === o.id}>
          <Act class="name" aria-pressed={open === o.id} onclick={() => (open = open === o.id ? "" : o.id)}
            ><strong>{o.name}</strong></Act
          >
          <span class="says cut" dir="auto">{value(o.id, "text") ?? ""}</span>
          <span class="buttons">
            <Act aria-label="{shown ? 'Hide' : 'Show'} {o.name}" onclick={() => act(o, "overlay")}
              >{shown ? "Hide" : "Show"}</Act
            >
            {#if (o.lines?.length ?? 0) > 1}
              <Act
                quiet
                aria-label="{value(o.id, 'at')} of {o.lines?.length}: next entry of {o.name}"
                onclick={() => act(o, "overlay-next")}>{value(o.id, "at")} of {o.lines?.length}</Act
              >
            {/if}
            <Act quiet aria-label="Remove {o.name}" onclick={() => remove(o)}>Remove</Act>
          </span>
          {#if o.outside}<p class="wrong">It begins or ends where not every screen shows it.</p>{/if}
          {#if o.unreadable}<p class="wrong">Its words are lost on a light picture: give it another look.</p>{/if}
        </li>
      {:else}
        <li>
          <None waits={answer.waits("all")} problem={answer.problem("all")}
            >No overlay yet: a clock, a name plate, a viewer's question, a picture.</None
          >
        </li>
      {/each}
      <li><Act id="add-overlay" onclick={() => (open = "new")}>Add an overlay</Act></li>
    </ul>
    {#if open}
      {#key open}
        <OverlayForm
          overlay={current}
          ondone={async () => {
            open = "";
            await load();
          }}
        />
      {/key}
    {/if}
  </div>
</section>

<style>
  .overlays {
    height: 100%;
    box-sizing: border-box;
    overflow: auto;
    padding: 1.25rem 1.5rem;
    font-size: 0.875rem;
    display: grid;
    gap: 1rem;
    align-content: start;
  }
  header,
  .address {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0.25rem 1rem;
  }
  header :global(.bx--btn) {
    margin-left: auto;
  }
  .address p {
    width: 100%;
  }
  .pictures,
  .rest {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    gap: 1.5rem;
    align-items: start;
  }
  img {
    width: 100%;
    display: block;
    aspect-ratio: 16 / 9;
  }
  li {
    display: grid;
    grid-template-columns: auto 1fr auto;
    gap: 0.25rem 0.75rem;
    align-items: center;
    border-top: 1px solid var(--line);
    padding: 0.35rem 0;
  }
  .wrong {
    grid-column: 1 / -1;
  }
</style>
