<script lang="ts">
  import { api, fieldsOf, type Board, type Controller, type Face, type Touch } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import Plate from "../../parts/Plate.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** The hardware that a controller is attached to: its state, what comes in and where it goes, and which control is which. */
  let { controller }: { controller: Controller } = $props();

  type Link = Controller["links"][number];
  const boardOf = (l: Link) => feed.values.get(`board/${l.match}`) as Board | undefined;
  const touchesOf = (l: Link) => ((feed.values.get(`touches/${l.match}`) as Touch[] | undefined) ?? []).toReversed();
  const serials = $derived(controller.links.map((l) => l.match).join("\n"));
  $effect(() => {
    feed.follow("hardware", ["bridges", "controllers", ...serials.split("\n").map((s) => `touches:${s}`)]);
    return () => feed.follow("hardware", []);
  });

  /** The control that was touched a moment ago: it flashes. */
  const flashing = $derived(
    controller.links.flatMap((l) => {
      const t = boardOf(l)?.last;
      return t?.to && clock.now - Date.parse(t.at) < 1500 ? [t.to] : [];
    }),
  );
  const faceOf = (control: string): Face | undefined => {
    const mapping = show.shown(controller.id)?.controls[control];
    return mapping ? (feed.values.get(`face/${mapping}`) as Face | undefined) : undefined;
  };
  /** As text: what is followed anew comes as another object, and is the same. */
  const pages = $derived(show.faceTopics(Object.values(show.shown(controller.id)?.zones ?? {}).flat()).join("\n"));
  $effect(() => {
    feed.follow("hardware faces", pages.split("\n"));
    return () => feed.follow("hardware faces", []);
  });

  const body = (l: Link) => ({
    rev: l.rev,
    controller: l.controller,
    kind: l.kind,
    name: l.name,
    match: l.match,
    map: l.map ?? {},
    off: l.off ?? false,
  });
  async function change(l: Link, to: Partial<ReturnType<typeof body>>) {
    const params = { path: { id: l.id } };
    return said(await api.PUT("/api/v1/links/{id}", { params, body: { ...body(l), ...to } }));
  }
  async function detach(l: Link) {
    said(await api.DELETE("/api/v1/links/{id}", { params: { path: { id: l.id } } }), "Detached. Ctrl+Z takes it back.");
  }

  /** The control of the hardware that is mapped next: the one that was touched last, unless another one was written. */
  let from = $state("");
  const choices = $derived([
    { value: "", text: "nothing" },
    ...controller.controls.map((c) => ({ value: c.id, text: c.id })),
  ]);
  const maps = (l: Link, control: string, to: string) => change(l, { map: { ...(l.map ?? {}), [control]: to } });
  const unmaps = (l: Link, control: string) =>
    change(l, { map: Object.fromEntries(Object.entries(l.map ?? {}).filter(([k]) => k !== control)) });

  let serial = $state("");
  let error = $state("");
  async function attach() {
    const r = await api.POST("/api/v1/links", {
      body: { controller: controller.id, kind: "wire", name: "", match: serial, map: {}, off: false },
    });
    error = fieldsOf(r.error).match ?? "";
    if (!error && said(r)) serial = "";
  }
  const edge = (t: Touch) => (t.amount ? `${t.edge} ${t.amount}` : t.edge);
</script>

<section>
  <h3>Attached hardware</h3>
  {#if controller.links.length === 0}
    <ol>
      <li>Beside the hardware, start a bridge: <span class="mono">synaptor bridge --port /dev/ttyACM0</span></li>
      <li>It is listed below the controllers as soon as it is here.</li>
      <li>Attach it there, or enter its serial number here.</li>
    </ol>
  {/if}
  {#each controller.links as l (l.id)}
    {@const b = boardOf(l)}
    <article data-link={l.match}>
      <header>
        <strong>{l.name || b?.name || l.match}</strong>
        <span class="phase {b?.here && !l.off ? 'up' : 'down'}"
          >{l.off ? "switched off" : b?.here ? "here" : "away"}</span
        >
        {#if b}<span class="quiet">{ago(b.since, clock.now)}</span>{/if}
        <Act onclick={() => detach(l)}>Detach</Act>
      </header>
      <p class="quiet">
        {l.match}{b?.bridge ? `, by ${b.bridge}` : ""}{b?.battery != null
          ? `, battery ${Math.round(b.battery * 100)} %`
          : ""}{b?.dimmed ? ", dimmed" : ""}
      </p>
      {#if b?.problem}<p class="wrong">{b.problem}</p>{/if}
      <Tick label="It is used" checked={!l.off} onchange={(on) => change(l, { off: !on })} />
      <div class="inputs" aria-label="What comes in" role="log">
        {#each touchesOf(l).slice(0, 6) as t (t.at + t.control + t.edge)}
          <p>
            <span class="mono">{t.control} {edge(t)}</span>
            {t.to ? `→ ${t.to}` : t.why}
            <span class="quiet">{ago(t.at, clock.now)}</span>
          </p>
        {:else}<p class="quiet">
            {b?.here
              ? "Touch it now: what comes in is seen here, and its control flashes."
              : "Once it is here, what comes in is seen here."}
          </p>{/each}
      </div>
      {#each Object.entries(l.map ?? {}) as [control, to] (control)}
        <div class="map">
          <span class="mono">{control} is</span>
          <Choice label="{control} is" hideLabel value={to} {choices} onchange={(v) => maps(l, control, v)} />
          <Act onclick={() => unmaps(l, control)}>Its own name</Act>
        </div>
      {/each}
      <div class="map">
        <Text
          label="Control of the hardware"
          hideLabel
          value={from || touchesOf(l)[0]?.control || ""}
          onchange={(v) => (from = v)}
        />
        <Choice
          label="It is"
          hideLabel
          data-map={l.match}
          value="-"
          choices={[{ value: "-", text: "is its own name" }, ...choices]}
          onchange={(to) => {
            const control = from || touchesOf(l)[0]?.control;
            if (control && to !== "-") void maps(l, control, to);
            from = "";
            return false;
          }}
        />
      </div>
    </article>
  {/each}
  {#if controller.links.length > 0}
    <div class="plate">
      <Plate {controller} keySize={44} {faceOf} landing={flashing} mode="select" />
    </div>
  {/if}
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void attach();
    }}
  >
    <Text id="serial" label="Attach hardware by its serial number" bind:value={serial} maxlength={120} {error} />
    <Act submit id="attach" disabled={!serial.trim()}>Attach</Act>
  </form>
</section>

<style>
  section,
  article,
  form {
    display: grid;
    gap: 0.4rem;
    width: 100%;
  }
  h3 {
    font-size: 0.875rem;
    font-weight: 600;
  }
  header,
  .map {
    display: flex;
    gap: 0.6rem;
    align-items: center;
    flex-wrap: wrap;
  }
  ol {
    padding-left: 1.2rem;
    list-style: decimal;
  }
  article {
    border-top: 1px solid var(--edge);
    padding-top: 0.5rem;
  }
  .inputs {
    font-size: 0.8125rem;
    min-height: 3.6rem;
  }
  .plate {
    overflow: auto;
    padding: 0.2rem;
  }
</style>
