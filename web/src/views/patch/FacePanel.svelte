<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Colour from "../../parts/form/Colour.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { holdsFocus } from "../../parts/focus";
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type FaceSpec, type Path } from "../../api/client";
  import Tile from "../../parts/Tile.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { notices, show } from "../../live/show.svelte";
  import type { Desk } from "./desk.svelte";
  import GlyphPicker from "./GlyphPicker.svelte";
  import LampEditor, { type LampDraft } from "./LampEditor.svelte";
  import LivePicker from "./LivePicker.svelte";
  import MediaPicker from "./MediaPicker.svelte";

  /** The face of the selected control and its lamps. Each change is an edit of its own, which can be undone. */
  let { desk, onclose }: { desk: Desk; onclose: () => void } = $props();

  const mapping = $derived(desk.mapping);
  const face = $derived(show.faceAt(desk.page, desk.selected));
  const own = $derived(mapping?.face ?? {});

  const answer = new Answer<Path>();
  const at = $derived(`${desk.page} ${desk.selected}`);
  const path = $derived(answer.of(at));
  let fields = $state<Record<string, string>>({});
  $effect(() => {
    void mapping?.rev;
    const params = { path: { page: desk.page, control: desk.selected } };
    void answer.ask(at, () => api.GET("/api/v1/pages/{page}/controls/{control}/path", { params }));
  });
  const id = $derived(mapping?.id);
  $effect(() => {
    void id;
    fields = {};
  });

  const positions = ["top", "middle", "bottom"] as const;
  const aligns = ["left", "centre", "right"] as const;

  /** What was saved last, until the show with it was read again. */
  let saved = { id: "", rev: 0, face: {} as FaceSpec, name: "" };
  let queue = Promise.resolve();

  type Change = { face?: Partial<FaceSpec>; name?: string; lamps?: LampDraft[]; actionLamps?: boolean };

  /** Saves changes one after the other, each on top of the one before. */
  function change(c: Change) {
    const m = mapping;
    if (!m) return;
    queue = queue.then(async () => {
      const read = show.doc?.mappings.find((o) => o.id === m.id) ?? m;
      const base = saved.id === m.id && saved.rev > read.rev ? saved : { ...read, name: read.name ?? "" };
      const face = { ...base.face, ...c.face };
      const name = c.name ?? base.name;
      const { data, error } = await api.PUT("/api/v1/mappings/{id}", {
        params: { path: { id: m.id } },
        body: { rev: base.rev, name, face, lamps: c.lamps, actionLamps: c.actionLamps },
      });
      // What is wrong elsewhere stays wrong.
      const others = Object.entries(fields).filter(
        ([f]) => !(f in { ...c.face, ...c }) && !(c.lamps && f.startsWith("lamps")),
      );
      fields = { ...Object.fromEntries(others), ...fieldsOf(error) };
      if (data) saved = { id: m.id, rev: data.rev, face, name };
      else if (error && Object.keys(fields).length === 0) notices.add("refused", error.detail);
    });
  }
  const save = (face: Partial<FaceSpec>) => change({ face });

  let open = $state<"" | "glyph" | "picture" | "live">("");
  const toggle = (what: typeof open) => (open = open === what ? "" : what);
</script>

<aside class="beside" aria-label="Face of {desk.selected}" {@attach holdsFocus}>
  <header>
    <h2>Face of <span class="mono">{desk.selected}</span></h2>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
  </header>
  {#if !mapping}
    <p class="empty quiet">Nothing is mapped here yet, so there is no face. Press <kbd>A</kbd> first.</p>
  {:else}
    <div class="all rows">
      {#if face}<span class="look"><Tile {face} /></span>{/if}
      <Text
        label="name"
        value={mapping.name ?? ""}
        maxlength={60}
        placeholder={face?.name ?? ""}
        title="For search, the journal and screen readers"
        error={fields.name}
        onchange={(name) => change({ name })}
      />
      <Text
        label="label"
        lines={2}
        value={own.label ?? ""}
        placeholder={face?.label ?? ""}
        data-face="label"
        title="Text with {'{…}'} follows readings; empty follows the device's own names"
        error={fields.label}
        onchange={(label) => save({ label: label || undefined })}
      />
      {#if face?.cut}<p class="warn bare">It is longer than fits and is cut: {face.lines.join(" ")}</p>{/if}
      <Tick
        label="no label on the key"
        checked={own.hidden ?? false}
        onchange={(hidden) => save({ hidden: hidden || undefined })}
      />
      <div class="row">
        <span class="bx--label">place</span>
        <span class="places" role="group" aria-label="Place of the label">
          {#each positions as p (p)}
            {#each aligns as a (a)}
              {@const on = (own.position ?? "bottom") === p && (own.align ?? "left") === a}
              <!-- A drawing of the key with its nine places, no row of words. -->
              <button
                aria-pressed={on}
                aria-label="{p} {a}"
                title="{p}, {a}"
                onclick={() => save({ position: p === "bottom" ? undefined : p, align: a === "left" ? undefined : a })}
              ></button>
            {/each}
          {/each}
        </span>
      </div>
      <Amount
        label="size"
        min={6}
        max={60}
        placeholder="fits"
        value={own.size ?? null}
        data-face="size"
        error={fields.size}
        onchange={(size) => save({ size: size || undefined })}
      />
      <Tick
        label="light letters"
        checked={own.light ?? false}
        onchange={(light) => save({ light: light || undefined })}
      />
      <div class="row">
        <span class="bx--label">colours</span>
        <span class="spread">
          <Colour
            label="Background"
            value={own.background ?? face?.background}
            onchange={(background) => save({ background })}
          />
          <Colour label="Text" value={own.text ?? face?.text} onchange={(text) => save({ text })} />
          {#if own.background || own.text}
            <Act onclick={() => save({ background: undefined, text: undefined })}>the role's own</Act>
          {/if}
          {#if path?.looks[0]}<span class="quiet">contrast {path.looks[0].contrast.toFixed(1)}</span>{/if}
        </span>
      </div>
      {#if fields.text || fields.background}<p class="wrong bare">{fields.text || fields.background}</p>{/if}
      <div class="row">
        <span class="bx--label">shows</span>
        <span class="spread">
          <Act aria-expanded={open === "glyph"} data-shows="glyph" onclick={() => toggle("glyph")}>Glyph</Act>
          <Act aria-expanded={open === "picture"} data-shows="picture" onclick={() => toggle("picture")}>Picture</Act>
          <Act aria-expanded={open === "live"} data-shows="live" onclick={() => toggle("live")}>Live picture</Act>
        </span>
      </div>
      {#if open === "glyph"}
        <GlyphPicker chosen={own.glyph ?? ""} onchoose={(g) => save({ glyph: g || undefined })} />
      {:else if open === "picture"}
        <MediaPicker chosen={own.picture ?? ""} onchoose={(p) => save({ picture: p || undefined })} />
        {#if own.picture}
          <Tick
            label="whole picture, not cropped"
            checked={own.fit === "fit"}
            onchange={(fit) => save({ fit: fit ? "fit" : undefined })}
          />
        {/if}
      {:else if open === "live"}
        <LivePicker chosen={own.live} onchoose={(live) => save({ live })} />
      {/if}
      {#if fields.picture || fields.live}<p class="wrong">{fields.picture || fields.live}</p>{/if}
      {#if desk.also.length > 0}
        <p class="quiet">“Look like {desk.selected}” above the drawing gives this look to the other selected keys.</p>
      {/if}
      {#if path}
        {#key mapping.id}
          <LampEditor
            {path}
            {fields}
            onsave={(lamps) => change({ lamps })}
            onproposed={() => change({ actionLamps: true })}
          />
        {/key}
      {:else}
        <p class="quiet">{answer.problem(at) || "…"}</p>
      {/if}
    </div>
  {/if}
</aside>

<style>
  aside {
    font-size: 0.8125rem;
    user-select: text;
  }
  .empty {
    padding: 1rem;
  }
  .all {
    overflow: auto;
    padding: 0.25rem 1rem 1.5rem;
  }
  .look {
    position: relative;
    width: 120px;
    height: 120px;
    justify-self: center;
  }
  .places {
    display: grid;
    grid-template-columns: repeat(3, 18px);
    gap: 3px;
  }
  .places button {
    width: 18px;
    height: 14px;
    padding: 0;
    border: 1px solid var(--edge);
  }
  .places button[aria-pressed="true"] {
    background: var(--select);
    border-color: var(--select);
  }
  .warn {
    color: var(--armed);
  }
</style>
