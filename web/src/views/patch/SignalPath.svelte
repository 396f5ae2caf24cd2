<script lang="ts">
  import None from "../../parts/form/None.svelte";
  import Slide from "../../parts/form/Slide.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { focusFirst } from "../../parts/focus";
  import { Button } from "carbon-components-svelte";
  import { api, type Controller, type LinkState, type Path, type Reading } from "../../api/client";
  import Glyph from "../../parts/Glyph.svelte";
  import Tile from "../../parts/Tile.svelte";
  import { ago, clock, ms, phases } from "../../live/words.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { feed, type Touch } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import DrivesMany from "./DrivesMany.svelte";
  import DoesStation from "./DoesStation.svelte";

  let {
    controller,
    page,
    control,
    gesture,
    pressed,
    ontry,
    onamount,
    onclear,
    onfind,
    onface,
    ongesture,
  }: {
    controller: Controller;
    page: string;
    control: string;
    /** The gesture that is looked at. */
    gesture: string;
    pressed: string[];
    ontry: (edge: "down" | "up") => void;
    onamount: (t: Touch) => void;
    onclear: () => void;
    onfind: () => void;
    /** The face is to be edited, or not any more. */
    onface: () => void;
    ongesture: (gesture: string) => void;
  } = $props();

  const answer = new Answer<Path>();
  const at = $derived(`${page} ${control}`);
  const path = $derived(answer.of(at));
  const problem = $derived(answer.problem(at));
  let station = $state<DoesStation>();

  const mapping = $derived(path?.mapping ?? undefined);
  const does = $derived(path?.does.find((d) => d.gesture === gesture));
  const drives = $derived(path?.drives.find((d) => d.device === does?.device) ?? path?.drives[0]);
  /** Synaptor's own actions need no link. */
  const itself = $derived(drives?.device === "synaptor");
  const kind = $derived(controller.controls.find((c) => c.id === control)?.kind ?? "key");
  const swipes = $derived(kind === "ribbon" && gesture !== "slide");
  const slides = $derived(kind === "slider" || (kind === "ribbon" && !swipes));
  const link = $derived(drives && (feed.values.get(`device/${drives.device}`) as LinkState | undefined));
  const face = $derived(show.faceAt(page, control));

  const devices = $derived([...new Set(path?.drives.map((d) => d.device))]);
  /** How the links of its devices are, and how often what they confirm was timed. */
  const links = $derived(
    devices
      .map((d) => feed.values.get(`device/${d}`) as LinkState | undefined)
      .map((l) => `${l?.phase} ${l?.latency.count}`)
      .join(),
  );

  // The path is read again when another control is selected, when the show changes, and when
  // a name or link of its devices changes (its face then does).
  $effect(() => {
    void show.doc;
    void face?.name;
    void links;
    const params = { path: { page, control } };
    void answer.ask(at, () => api.GET("/api/v1/pages/{page}/controls/{control}/path", { params }));
  });
  $effect(() => {
    feed.follow(
      "path",
      devices.map((d) => `readings:${d}`),
    );
  });
  $effect(() => () => feed.follow("path", []));

  /** The label is to be edited as soon as its field is there. */
  let editing = $state(false);

  export function editLabel() {
    editing = true;
  }

  /** What is planned for the control, or the page behind it, while it is being written. */
  let writing = $state<{ what: "note" | "behind"; text: string } | undefined>();
  $effect(() => {
    void control;
    void page;
    writing = undefined;
  });

  /** Has the plan for an empty control be written. */
  export function note() {
    if (show.mappingAt(page, control)) return;
    writing = { what: "note", text: show.noteAt(page, control) ?? "" };
  }

  async function write() {
    const w = writing;
    if (!w) return;
    const at = { page, control };
    if (w.what === "note")
      said(
        await api.PUT("/api/v1/pages/{page}/notes", {
          params: { path: { page } },
          body: { notes: { [control]: w.text } },
        }),
      );
    else if (
      !said(
        await api.POST("/api/v1/pages/{page}/controls/{control}/behind", {
          params: { path: at },
          body: { name: w.text },
        }),
        `${w.text} is behind ${control}; the same key there leads back.`,
      )
    )
      return;
    writing = undefined;
  }

  /** Has the drawn key show one of its states for some seconds, everywhere. */
  async function force(state: string) {
    if (!mapping) return;
    said(
      await api.PUT("/api/v1/mappings/{id}/state", {
        params: { path: { id: mapping.id } },
        body: { state: face?.forced ? "" : state, seconds: 10 },
      }),
    );
  }

  $effect(() => {
    if (!editing || !station || !path) return;
    editing = false;
    station.editLabel();
  });
</script>

<div data-help="parts/the-signal-path" class="path" aria-label="Signal path of {control}">
  <div class="thread" aria-hidden="true"></div>
  <section>
    <h3><i class="dot"></i> touch</h3>
    <p class="head one" title="{control} of {controller.name}">
      <span class="mono id">{control}</span> of {controller.name}
    </p>
    <div class="buttons">
      {#if slides}
        <Slide
          label="Slide {control}"
          min={0}
          max={1}
          step={0.01}
          said={(v) => `${Math.round(v * 100)} %`}
          value={face?.dial?.share ?? 0}
          disabled={!mapping}
          oninput={(amount) => onamount({ edge: "slide", amount })}
        />
      {:else if swipes}
        {@render turn(-1, "Swipe to the left", "swipe")}
        {@render turn(1, "Swipe to the right", "swipe")}
      {:else}
        {#if kind === "dial"}
          {@render turn(-1, "Turn left")}
        {/if}
        <!-- It hears down and up, as a key does. -->
        <button
          class="try"
          class:down={pressed.includes(control)}
          disabled={!show.mappingAt(page, control)}
          title="Sends down and up, as the controller would"
          onpointerdown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            ontry("down");
          }}
          onpointerup={() => ontry("up")}
          onpointercancel={() => ontry("up")}
          onkeydown={(e) => (e.key === " " || e.key === "Enter") && !e.repeat && (e.preventDefault(), ontry("down"))}
          onkeyup={(e) => (e.key === " " || e.key === "Enter") && ontry("up")}>Try</button
        >
        {#if kind === "dial"}
          {@render turn(1, "Turn right")}
        {/if}
      {/if}
      {#if mapping}<Button kind="ghost" size="small" on:click={onclear}>Clear</Button>{/if}
    </div>
    {#each path?.gestures ?? [] as g (g.gesture)}
      <!-- A row of the station. -->
      <button
        class="row gesture"
        class:quiet={!g.mapped}
        aria-pressed={g.gesture === gesture}
        data-gesture={g.gesture}
        title={g.mapped ? "Show what it does" : "Give it something to do"}
        onclick={() => {
          ongesture(g.gesture);
          if (!g.mapped) onfind();
        }}
      >
        <span>{g.gesture}</span>
        <span
          >{!g.mapped
            ? "free"
            : g.untilRelease
              ? "when it is let go"
              : g.addedDelayMs
                ? `waits ${g.addedDelayMs} ms`
                : "at once"}</span
        >
      </button>
    {/each}
  </section>

  <section class="does">
    <h3><i class="dot"></i> does</h3>
    {#if problem}<p class="wrong">{problem}</p>{/if}
    {#if !path}
      {#if !problem}<p class="quiet">…</p>{/if}
    {:else if !mapping || !does}
      <p class="quiet">
        {gesture && mapping
          ? `Nothing on ${gesture} yet.`
          : show.noteAt(page, control)
            ? `Planned: ${show.noteAt(page, control)}`
            : "Nothing yet."}
      </p>
      <Button size="small" kind="tertiary" on:click={onfind}>What should it do?</Button>
    {:else}
      {#key mapping.id + does.gesture}
        <DoesStation {control} bind:this={station} {mapping} {does} {face} {page} touch={kind === "touch"} />
      {/key}
    {/if}
    {#if writing}
      <form
        class="writing"
        {@attach focusFirst}
        onsubmit={(e) => {
          e.preventDefault();
          void write();
        }}
      >
        <Text
          hideLabel
          maxlength={writing.what === "note" ? 120 : 60}
          bind:value={writing.text}
          label={writing.what === "note" ? "What is planned here" : "Name of the page behind"}
          placeholder={writing.what === "note" ? "guest mic here" : "Name of the page behind"}
          onkeydown={(e) => {
            if (e.key !== "Escape") return;
            e.stopPropagation();
            writing = undefined;
          }}
        />
        <Button size="small" type="submit">{writing.what === "note" ? "Note it" : "Make it"}</Button>
      </form>
    {:else if path}
      <p class="more">
        {#if !mapping}<Act onclick={note}>Note for later</Act>{/if}
        {#if path.gestures.some((g) => g.gesture === "press")}
          <Act onclick={() => (writing = { what: "behind", text: "" })}>New page behind it</Act>
        {/if}
      </p>
    {/if}
  </section>

  <section>
    <h3><i class="dot"></i> drives</h3>
    {#if does?.macro}<DrivesMany drives={path?.drives ?? []} />
    {:else if drives}
      <p class="head device" style:--role="var(--role-{drives.role})">
        <Glyph name={drives.role} struck={!itself && link?.phase !== "up"} size={18} />
        {drives.name}
      </p>
      {#if itself}
        <p class="quiet">Done by Synaptor itself.</p>
      {:else}
        <p class="row">
          <span>link</span>
          <span class:alarm={link?.phase === "down"}
            >{link ? phases[link.phase] : "connecting"}{link ? ` ${ago(link.since, clock.now)}` : ""}</span
          >
        </p>
        <p class="row"><span>address</span><span class="mono">{drives.address}</span></p>
        <p class="row">
          <span>confirms in</span>
          <span class="mono"
            >{drives.latency.count
              ? `${ms(drives.latency.medianUs)} (of ${drives.latency.count})`
              : "not measured yet"}</span
          >
        </p>
      {/if}
      {#each does?.sends ?? [] as s, i (i)}<p class="row">
          <span>sends</span><span class="mono wrap">{s}</span>
        </p>{/each}
      {#if link?.phase === "down"}<p class="alarm box">{link.problem}</p>{/if}
    {:else}
      <None waits={!path} {problem}>{does?.problem ?? "No device."}</None>
    {/if}
  </section>

  <section class="back">
    <h3><i class="dot"></i> comes back</h3>
    {#each path?.readings ?? [] as b (b.key)}
      {@const r = feed.values.get(`reading/${b.key}`) as Reading | undefined}
      <p class="row">
        <span>{b.title}</span>
        <span class="value" data-quality={r?.quality ?? "unknown"}
          >{r?.word || "–"}{#if r && r.quality !== "confirmed"}<em>{r.quality}</em>{/if}</span
        >
      </p>
    {:else}
      <None waits={!path} {problem}>Nothing is reported back{mapping ? "" : " by a free key"}.</None>
    {/each}
    {#if path && path.looks.length > 0}
      <div class="looks">
        {#each path.looks as l, i (i)}
          <figure title={l.when ? `when ${l.when}` : ""}>
            <!-- A drawing of the key. -->
            <button class="look" data-state-id={l.id} onclick={() => force(l.id)}
              ><Tile face={l.face} still /><span class="visually-hidden">Try out: {l.state}</span></button
            >
            <figcaption>{l.state}</figcaption>
          </figure>
        {/each}
      </div>
      <p class="row">
        <span>label</span>
        <span
          >{path.looks[0]?.face.cut ? "shortened to fit" : "fits"}; contrast {Math.min(
            ...path.looks.map((l) => l.contrast),
          ).toFixed(1)}</span
        >
      </p>
      <p class="more">
        <Act onclick={onface}>Face and lamps</Act>
        {#if face?.forced}<Act onclick={() => force("")}>End the try-out</Act>
        {:else}<span class="quiet">Press a look to try it out.</span>{/if}
      </p>
    {/if}
  </section>
</div>

{#snippet turn(by: number, name: string, edge: "turn" | "swipe" = "turn")}
  <!-- One step of a dial. -->
  <button class="try" aria-label={name} title={name} disabled={!mapping} onclick={() => onamount({ edge, amount: by })}
    >{edge === "swipe" ? (by < 0 ? "←" : "→") : by < 0 ? "−" : "+"}</button
  >
{/snippet}

<style>
  .path {
    position: relative;
    display: grid;
    grid-template-columns: minmax(150px, 0.7fr) minmax(220px, 1.15fr) minmax(210px, 1fr) minmax(260px, 1.4fr);
    background: color-mix(in srgb, var(--sheet) 93%, transparent);
    border-top: 1px solid var(--line);
    /* Of one height, whatever is selected: nothing may move away under a finger. */
    height: clamp(262px, 27vh, 340px);
    font-size: 0.8125rem;
  }
  @media (max-width: 950px) {
    .path {
      grid-template-columns: repeat(2, minmax(0, 1fr));
      height: auto;
    }
    .thread {
      right: 50%;
    }
  }
  .thread {
    position: absolute;
    left: 24px;
    right: 24px;
    top: 21px;
    height: 2px;
    background: var(--select);
    opacity: 0.55;
  }
  section {
    padding: 12px 16px 14px 24px;
    min-width: 0;
    min-height: 0;
    overflow: auto;
    position: relative;
  }
  h3 {
    font-size: 0.8125rem;
    display: inline-flex;
    align-items: center;
    gap: 0.5rem;
    background: var(--sheet);
    padding-right: 0.6rem;
    margin-bottom: 0.5rem;
    position: relative;
  }
  .dot {
    width: 10px;
    height: 10px;
    border-radius: 50%;
    background: var(--select);
  }
  p {
    margin: 0 0 0.3rem;
  }
  .head {
    font-size: 0.9375rem;
    overflow-wrap: anywhere;
  }
  .one {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .id {
    color: var(--select);
    font-size: 0.9375rem;
  }
  .device {
    display: flex;
    align-items: center;
    gap: 0.4rem;
  }
  .device :global(svg) {
    color: var(--role);
    flex: none;
  }
  .row {
    display: flex;
    justify-content: space-between;
    gap: 0.75rem;
  }
  .row > span:first-child {
    color: var(--quiet);
    flex: none;
    max-width: 60%;
  }
  .row > span:last-child {
    text-align: right;
    min-width: 0;
    overflow-wrap: anywhere;
  }
  .wrap {
    overflow-wrap: anywhere;
  }
  .buttons {
    margin: 0.4rem 0 0.6rem;
  }
  .gesture {
    width: 100%;
    background: none;
    border: 0;
    border-left: 3px solid transparent;
    color: var(--text);
    font: inherit;
    padding: 0.12rem 0.3rem;
    cursor: pointer;
    text-align: left;
  }
  .gesture:hover {
    background: var(--raster);
  }
  .gesture[aria-pressed="true"] {
    border-color: var(--select);
  }
  .gesture.quiet {
    color: var(--quiet);
  }
  .try[aria-label] {
    min-width: 40px;
  }
  .try {
    min-width: 5.5rem;
    height: 40px;
    border-radius: 6px;
    border: 1px solid var(--text);
    background: none;
    color: var(--text);
    font: inherit;
    font-weight: 600;
    cursor: pointer;
    touch-action: none;
  }
  .try:disabled {
    border-color: var(--line);
    color: var(--faint);
    cursor: default;
  }
  .try.down {
    background: var(--text);
    color: var(--on-alarm);
  }
  .alarm {
    background: var(--alarm);
    color: var(--on-alarm);
    padding: 0 0.3rem;
  }
  .box {
    padding: 0.3rem 0.5rem;
    margin-top: 0.3rem;
  }
  .value {
    font-family: var(--condensed);
    font-weight: 600;
  }
  .value em {
    margin-left: 0.4rem;
    font-weight: 400;
    color: var(--armed);
  }
  .value[data-quality="unknown"] {
    color: var(--quiet);
  }
  .looks {
    display: flex;
    gap: 8px;
    margin: 0.5rem 0 0.4rem;
    flex-wrap: wrap;
  }
  figure {
    width: 46px;
  }
  .more {
    display: flex;
    gap: 1rem;
    flex-wrap: wrap;
    margin-top: 0.4rem;
  }
  .writing {
    display: flex;
    gap: 0.5rem;
    margin-top: 0.4rem;
  }
  .look {
    position: relative;
    display: block;
    border: 0;
    padding: 0;
    background: none;
    cursor: pointer;
    width: 46px;
    height: 46px;
  }
  figcaption {
    font-size: 0.6875rem;
    color: var(--quiet);
    text-align: center;
    padding-top: 0.15rem;
  }
</style>
