<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Button } from "carbon-components-svelte";
  import { api, type Control, type Controller, type Layout } from "../../api/client";
  import Plate from "../../parts/Plate.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { said, show } from "../../live/show.svelte";

  /** A controller layout of one's own: groups of controls on a drawing. An empty type makes a new one. */
  let { type, onclose, onadd }: { type: string; onclose: () => void; onadd: (l: Layout) => void } = $props();

  interface Group {
    id: string;
    kind: string;
    zone: string;
    columns: number | null;
    rows: number | null;
    x: number;
    y: number;
    width?: number | null;
    height?: number | null;
    pictures?: boolean;
  }
  interface Sheet {
    sheet: string;
    type: string;
    title: string;
    zone?: string;
    grid?: { columns: number; rows: number; pictures?: boolean; touch?: boolean };
    groups?: Group[];
  }

  const kinds = ["key", "touch", "dial", "button", "pedal", "slider", "ribbon"];
  let title = $state("");
  let groups = $state<Group[]>([
    { id: "", kind: "key", zone: "keys", columns: 5, rows: 3, x: 0, y: 0, pictures: true },
  ]);
  let preview = $state.raw<{ controls: Control[]; width: number; height: number; problem: string }>({
    controls: [],
    width: 1,
    height: 1,
    problem: "",
  });

  $effect(() => {
    if (type) void read(type);
  });

  async function read(of: string) {
    const { data } = await api.GET("/api/v1/sheets/{type}", { params: { path: { type: of } } });
    if (of !== type) return;
    const s = data as unknown as Sheet | undefined;
    if (!s) return;
    title = s.title;
    const grid: Group[] = s.grid
      ? [
          {
            id: "",
            kind: s.grid.touch ? "touch" : "key",
            zone: s.zone ?? "keys",
            columns: s.grid.columns,
            rows: s.grid.rows,
            x: 0,
            y: 0,
            pictures: s.grid.pictures,
          },
        ]
      : [];
    groups = [...grid, ...(s.groups ?? [])];
  }

  /** A type that no sheet has yet, made of the title. */
  function freeType(): string {
    const base =
      title
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")
        .replace(/^-|-$/g, "")
        .slice(0, 40) || "layout";
    const taken = (t: string) => (show.doc?.layouts ?? []).some((l) => l.type === t);
    let t = `own.${base}`;
    for (let n = 2; taken(t); n++) t = `own.${base}-${n}`;
    return t;
  }

  const sheet = $derived<Sheet>({
    sheet: "synaptor.controller/1",
    type: type || "own.preview",
    title: title.trim() || "A layout",
    groups: groups.map((g) => ({
      ...g,
      columns: g.columns ?? 0,
      rows: g.rows ?? 0,
      width: g.width || undefined,
      height: g.height || undefined,
    })) as Group[],
  });

  let asked = 0;
  $effect(() => {
    const body = $state.snapshot(sheet) as unknown as Record<string, never>;
    const turn = ++asked;
    void api.POST("/api/v1/layouts/preview", { body }).then(({ data }) => {
      if (data && turn === asked) preview = data.problem ? { ...preview, problem: data.problem } : data;
    });
  });

  function addGroup(kind: string) {
    const letter = [...new Set(["k", "t", "d", "b", "p", "s", "r", "x", "y", "z"])].find(
      (l) => !groups.some((g) => g.id === l),
    );
    groups.push({
      id: {
        key: "key",
        touch: "touch",
        dial: "dial",
        button: "button",
        pedal: "pedal",
        slider: "slider",
        ribbon: "ribbon",
      }[kind]!.concat(groups.some((g) => g.kind === kind) ? (letter ?? "z") : ""),
      kind,
      zone: kind === "dial" || kind === "slider" ? "dials" : "keys",
      columns: 1,
      rows: kind === "slider" ? 1 : 3,
      x: Math.ceil(preview.width),
      y: 0,
      ...(kind === "slider" ? { height: 3 } : {}),
    });
  }

  async function save() {
    const made = { ...$state.snapshot(sheet), type: type || freeType(), title: title.trim() };
    const r = await api.POST("/api/v1/sheets", { body: made as unknown as Record<string, never> });
    if (!said(r, type ? `${made.title} is changed.` : "")) return;
    await show.load();
    onclose();
    if (!type) onadd({ type: made.type, title: made.title, own: true });
  }

  async function remove() {
    if (said(await api.DELETE("/api/v1/sheets/{type}", { params: { path: { type } } }), `${title} is removed.`)) {
      await show.load();
      onclose();
    }
  }

  // A group is dragged on the drawing, in steps of a quarter of a key.
  const keySize = $derived(Math.max(14, Math.min(52, 360 / (preview.width * 1.085))));

  function grab(c: Control, e: PointerEvent) {
    const g = groups.find((o) => o.id === c.group);
    if (!g) return;
    const from = { x: e.clientX, y: e.clientY, gx: g.x, gy: g.y };
    const step = (pixels: number) => Math.round((pixels / (keySize * 1.083)) * 4) / 4;
    const move = (m: PointerEvent) => {
      g.x = Math.max(0, from.gx + step(m.clientX - from.x));
      g.y = Math.max(0, from.gy + step(m.clientY - from.y));
    };
    const end = () => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", end);
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", end);
  }

  const drawn = $derived({
    name: title || "The drawing",
    slug: "layout-preview",
    controls: preview.controls,
    width: preview.width,
    height: preview.height,
  } as unknown as Controller);
</script>

<SideSheet title={type ? "Change the layout" : "A layout of my own"} {onclose}>
  <form
    class="rows"
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <Text label="title" bind:value={title} maxlength={80} required placeholder="Lectern keys" data-layout-title="" />
    <div class="drawing">
      <Plate controller={drawn} {keySize} faceOf={() => undefined} mode="select" onkey={grab} />
    </div>
    <p class="quiet">Drag a group to place it.</p>
    {#if preview.problem}<p class="wrong" role="alert">This cannot be: {preview.problem}.</p>{/if}
    {#each groups as g, i (i)}
      <fieldset>
        <legend>{g.id || "a1, b1 …"}</legend>
        <Choice label="kind" bind:value={g.kind} choices={kinds} />
        <Text
          label="called"
          bind:value={g.id}
          pattern="[a-z]{'{'}0,20{'}'}"
          placeholder="as a grid"
          title="Small letters; the controls are numbered after it. Empty: letter and number, as on a grid."
        />
        <Amount label="columns" min={1} max={26} bind:value={g.columns} data-columns={i} />
        <Amount label="rows" min={1} max={26} bind:value={g.rows} data-rows={i} />
        <Amount label="width" min={0.25} max={20} step={0.25} placeholder="1" bind:value={g.width} />
        <Amount label="height" min={0.25} max={20} step={0.25} placeholder="1" bind:value={g.height} />
        <Text
          label="zone"
          bind:value={g.zone}
          pattern="[a-z][a-z0-9-]*"
          title="Controls of one zone turn pages together"
        />
        <Tick label="shows pictures" bind:checked={g.pictures} />
        {#if groups.length > 1}<Act onclick={() => groups.splice(i, 1)}>Take it away</Act>{/if}
      </fieldset>
    {/each}
    <p class="buttons">
      Add
      {#each kinds as k (k)}<Act data-add={k} onclick={() => addGroup(k)}>{k === "touch" ? "touch key" : k}s</Act
        >{/each}
    </p>
    <div class="buttons">
      <Button size="small" type="submit" disabled={!!preview.problem || !title.trim()}
        >{type ? "Save" : "Make it and put it on the desk"}</Button
      >
      {#if type}<Button size="small" kind="ghost" on:click={remove}>Remove the layout</Button>{/if}
    </div>
  </form>
</SideSheet>

<style>
  form {
    padding: 0.5rem 1rem 1.5rem;
    gap: 0.75rem;
  }
  .drawing {
    background: var(--plate);
    border: 1px solid var(--line);
    border-radius: 8px;
    padding: 10px;
    overflow: auto;
    max-height: 300px;
  }
  fieldset {
    --beside: 4.2rem;
    border: 1px solid var(--line);
    border-radius: 6px;
    padding: 0.4rem 0.75rem 0.75rem;
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0.4rem 1rem;
  }
  legend {
    color: var(--quiet);
    padding: 0 0.3rem;
  }
</style>
