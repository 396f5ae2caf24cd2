<script lang="ts">
  import { api, fieldsOf, type Overlay, type Timer } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { said } from "../../live/show.svelte";

  /** An overlay as a person has it; without one, a new one. */
  let { overlay, ondone }: { overlay: Overlay | undefined; ondone: () => unknown } = $props();

  const before = (() => overlay)();
  let draft = $state(
    before
      ? { ...before, lines: before.lines ?? [] }
      : {
          name: "",
          kind: "caption" as Overlay["kind"],
          x: 6,
          y: 76,
          width: 46,
          size: 6,
          align: "left" as Overlay["align"],
          look: "band" as Overlay["look"],
          fadeMs: 300,
          timer: "",
          picture: "",
          lines: [],
        },
  );
  let words = $state((before?.lines ?? []).map((l) => (l.second ? `${l.text} | ${l.second}` : l.text)).join("\n"));
  let errors = $state<Record<string, string>>({});
  let timers = $state.raw<Timer[]>([]);
  let library = $state.raw<{ id: string; name: string }[]>([]);
  $effect(() => {
    void api.GET("/api/v1/timers").then(({ data }) => (timers = data ?? []));
    void api.GET("/api/v1/media").then(({ data }) => (library = data ?? []));
  });
  const kinds = [
    { value: "caption", text: "a caption, or a list of them" },
    { value: "timer", text: "a timer" },
    { value: "comment", text: "what a viewer says" },
    { value: "picture", text: "a picture of the library" },
  ];
  const looks = [
    { value: "band", text: "a dark band" },
    { value: "board", text: "a light board" },
    { value: "edged", text: "words with an edge" },
    { value: "plain", text: "words alone" },
  ];
  async function save(e: SubmitEvent) {
    e.preventDefault();
    const lines = words
      .split("\n")
      .filter((l) => l.trim())
      .map((l) => {
        const [text = "", ...rest] = l.split("|");
        return { text: text.trim(), second: rest.join("|").trim() };
      });
    const { name, kind, x, y, width, size, align, look, fadeMs, timer, picture } = draft;
    const body = {
      ...{ name, kind, align, look, lines },
      ...{ x: x ?? 0, y: y ?? 0, width: width ?? 0, size: size ?? 0, fadeMs: fadeMs ?? 0 },
      ...{ timer: timer ?? "", picture: picture ?? "" },
    };
    const r = before
      ? await api.PUT("/api/v1/overlays/{id}", {
          params: { path: { id: before.id } },
          body: { ...body, rev: before.rev },
        })
      : await api.POST("/api/v1/overlays", { body });
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length > 0 || !said(r)) return;
    ondone();
  }
</script>

<form class="rows" aria-label={before ? `The overlay ${before.name}` : "A new overlay"} onsubmit={save}>
  <Text id="overlay-name" label="Name" bind:value={draft.name} error={errors["name"] ?? ""} />
  <Choice
    label="Shows"
    value={draft.kind}
    choices={kinds}
    error={errors["kind"] ?? ""}
    onchange={(to) => void (draft.kind = to as Overlay["kind"])}
  />
  {#if draft.kind === "timer"}
    <Choice
      label="Timer"
      value={draft.timer ?? ""}
      choices={[{ value: "", text: "choose …" }, ...timers.map((t) => ({ value: t.id, text: t.name }))]}
      error={errors["timer"] ?? ""}
      onchange={(to) => void (draft.timer = to)}
    />
  {:else if draft.kind === "picture"}
    <Choice
      label="Picture"
      value={draft.picture ?? ""}
      choices={[{ value: "", text: "choose …" }, ...library.map((m) => ({ value: m.id, text: m.name }))]}
      error={errors["picture"] ?? ""}
      onchange={(to) => void (draft.picture = to)}
    />
  {:else}
    <Text
      id="overlay-lines"
      label="Entries"
      lines={4}
      bind:value={words}
      error={errors["lines"] ?? ""}
      help="Each on a line; what comes after | stands below. They may ask readings in braces."
    />
  {/if}
  <Choice
    label="Look"
    value={draft.look}
    choices={looks}
    error={errors["look"] ?? ""}
    onchange={(to) => void (draft.look = to as Overlay["look"])}
  />
  <Choice
    label="Text"
    value={draft.align}
    choices={[
      { value: "left", text: "left" },
      { value: "middle", text: "in the middle" },
      { value: "right", text: "right" },
    ]}
    error={errors["align"] ?? ""}
    onchange={(to) => void (draft.align = to as Overlay["align"])}
  />
  <Amount label="Across" unit="%" min={0} max={100} step="any" bind:value={draft.x} error={errors["x"] ?? ""} />
  <Amount label="Down" unit="%" min={0} max={100} step="any" bind:value={draft.y} error={errors["y"] ?? ""} />
  <Amount label="Width" unit="%" min={2} max={100} step="any" bind:value={draft.width} error={errors["width"] ?? ""} />
  <Amount label="Size" unit="%" min={1} max={100} step="any" bind:value={draft.size} error={errors["size"] ?? ""} />
  <Amount label="Fade" unit="ms" min={0} max={10000} bind:value={draft.fadeMs} error={errors["fadeMs"] ?? ""} />
  <div class="buttons">
    <Act submit id="overlay-save">{before ? "Save" : "Add it"}</Act>
    <Act quiet onclick={ondone}>Leave it</Act>
  </div>
</form>
