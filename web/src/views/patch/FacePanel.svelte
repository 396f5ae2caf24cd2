<script lang="ts">
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

<aside aria-label="Face of {desk.selected}" {@attach holdsFocus}>
  <header>
    <h2>Face of <span class="mono">{desk.selected}</span></h2>
    <Button kind="ghost" size="small" on:click={onclose}>Close</Button>
  </header>
  {#if !mapping}
    <p class="empty quiet">Nothing is mapped here yet, so there is no face. Press <kbd>A</kbd> first.</p>
  {:else}
    <div class="body fields">
      {#if face}<span class="look"><Tile {face} /></span>{/if}
      <label
        ><span>name</span>
        <input
          value={mapping.name ?? ""}
          maxlength="60"
          placeholder={face?.name ?? ""}
          title="For search, the journal and screen readers"
          onchange={(e) => change({ name: e.currentTarget.value })}
        /></label
      >
      {#if fields.name}<p class="wrong">{fields.name}</p>{/if}
      <label
        ><span>label</span>
        <textarea
          rows="2"
          value={own.label ?? ""}
          placeholder={face?.label ?? ""}
          data-face="label"
          title="Text with {'{…}'} follows readings; empty follows the device's own names"
          onchange={(e) => save({ label: e.currentTarget.value || undefined })}></textarea></label
      >
      {#if fields.label}<p class="wrong" role="alert">{fields.label}</p>{/if}
      {#if face?.cut}<p class="warn">It is longer than fits and is cut: {face.lines.join(" ")}</p>{/if}
      <label class="tick"
        ><input
          type="checkbox"
          checked={own.hidden ?? false}
          onchange={(e) => save({ hidden: e.currentTarget.checked || undefined })}
        /> no label on the key</label
      >
      <div class="pair">
        <span>place</span>
        <div class="places" role="group" aria-label="Place of the label">
          {#each positions as p (p)}
            {#each aligns as a (a)}
              {@const on = (own.position ?? "bottom") === p && (own.align ?? "left") === a}
              <button
                aria-pressed={on}
                aria-label="{p} {a}"
                title="{p}, {a}"
                onclick={() => save({ position: p === "bottom" ? undefined : p, align: a === "left" ? undefined : a })}
              ></button>
            {/each}
          {/each}
        </div>
        <label class="size"
          >size
          <input
            type="number"
            min="6"
            max="60"
            step="1"
            placeholder="fits"
            value={own.size ?? ""}
            data-face="size"
            onchange={(e) => save({ size: e.currentTarget.valueAsNumber || undefined })}
          /></label
        >
        <label class="tick"
          ><input
            type="checkbox"
            checked={own.light ?? false}
            onchange={(e) => save({ light: e.currentTarget.checked || undefined })}
          /> light</label
        >
      </div>
      {#if fields.size}<p class="wrong">{fields.size}</p>{/if}
      <div class="pair">
        <span>colours</span>
        <input
          type="color"
          aria-label="Background"
          value={own.background ?? face?.background}
          onchange={(e) => save({ background: e.currentTarget.value })}
        />
        <input
          type="color"
          aria-label="Text"
          value={own.text ?? face?.text}
          onchange={(e) => save({ text: e.currentTarget.value })}
        />
        {#if own.background || own.text}
          <button class="plain" onclick={() => save({ background: undefined, text: undefined })}>the role's own</button>
        {/if}
        {#if path?.looks[0]}<span class="quiet">contrast {path.looks[0].contrast.toFixed(1)}</span>{/if}
      </div>
      {#if fields.text || fields.background}<p class="wrong">{fields.text || fields.background}</p>{/if}
      <div class="pair">
        <span>shows</span>
        <button class="plain" aria-expanded={open === "glyph"} onclick={() => toggle("glyph")}>Glyph</button>
        <button class="plain" aria-expanded={open === "picture"} onclick={() => toggle("picture")}>Picture</button>
        <button class="plain" aria-expanded={open === "live"} onclick={() => toggle("live")}>Live picture</button>
      </div>
      {#if open === "glyph"}
        <GlyphPicker chosen={own.glyph ?? ""} onchoose={(g) => save({ glyph: g || undefined })} />
      {:else if open === "picture"}
        <MediaPicker chosen={own.picture ?? ""} onchoose={(p) => save({ picture: p || undefined })} />
        {#if own.picture}
          <label class="tick"
            ><input
              type="checkbox"
              checked={own.fit === "fit"}
              onchange={(e) => save({ fit: e.currentTarget.checked ? "fit" : undefined })}
            /> whole picture, not cropped</label
          >
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
    position: absolute;
    inset: 0 0 0 auto;
    width: 380px;
    background: #15181b;
    border-left: 1px solid var(--line);
    display: flex;
    flex-direction: column;
    z-index: 20;
    font-size: 0.8125rem;
    user-select: text;
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    padding: 0.4rem 0.4rem 0.4rem 1rem;
  }
  h2 {
    font-size: 1rem;
  }
  p {
    font-size: inherit;
    margin: 0;
  }
  .empty {
    padding: 1rem;
  }
  .body {
    overflow: auto;
    padding: 0.25rem 1rem 1.5rem;
    display: grid;
    gap: 0.55rem;
    align-content: start;
  }
  .look {
    position: relative;
    width: 120px;
    height: 120px;
    justify-self: center;
  }
  label,
  .pair {
    display: grid;
    grid-template-columns: 4.5rem 1fr;
    align-items: center;
    gap: 0.5rem;
    color: var(--quiet);
  }
  .pair {
    display: flex;
    gap: 0.9rem;
  }
  .pair > span:first-child {
    width: 4rem;
    flex: none;
  }
  .tick {
    grid-template-columns: auto 1fr;
    justify-content: start;
  }
  .size {
    grid-template-columns: auto 4.2rem;
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
    border: 1px solid #6b7580;
    background: none;
    cursor: pointer;
  }
  .places button[aria-pressed="true"] {
    background: var(--select);
    border-color: var(--select);
  }
  input:not([type="color"], [type="checkbox"]),
  textarea {
    width: 100%;
  }
  .wrong {
    color: var(--finding);
  }
  .warn {
    color: var(--armed);
  }
</style>
