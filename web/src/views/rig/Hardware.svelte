<script lang="ts">
  import { api, fieldsOf, type Controller, type Face } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Plate from "../../parts/Plate.svelte";
  import { feed } from "../../live/feed.svelte";
  import { hardware } from "../../live/hardware.svelte";
  import { said, show } from "../../live/show.svelte";
  import { clock } from "../../live/words.svelte";
  import Attached from "./Attached.svelte";
  import Learn from "./Learn.svelte";

  /** The hardware that a controller is attached to, and which of it is which control. */
  let { controller }: { controller: Controller } = $props();

  $effect(() => {
    feed.follow("hardware", ["hardware", "controllers"]);
    return () => feed.follow("hardware", []);
  });
  /** The controls that were touched a moment ago: they flash. */
  const flashing = $derived(
    controller.links.flatMap((l) => {
      const t = hardware.of(l.id)?.last;
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

  let selected = $state("");
  let learns = $state(false);
  let key = $state(0);
  const bound = $derived(
    controller.links.flatMap((l) =>
      l.bound.filter((b) => b.control === selected).map((b) => `${b.source} of ${l.name || l.match || "the browser"}`),
    ),
  );
  /** After one was learned, the next one is: a whole controller is learned in one go. */
  function next() {
    const i = controller.controls.findIndex((c) => c.id === selected);
    selected = controller.controls[i + 1]?.id ?? "";
    learns = selected !== "";
    key++;
  }

  const post = (kind: "wire" | "keys-here", match: string) =>
    api.POST("/api/v1/links", { body: { controller: controller.id, kind, name: "", match, map: {}, off: false } });
  let serial = $state("");
  let error = $state("");
  async function attach() {
    const r = await post("wire", serial);
    error = fieldsOf(r.error).match ?? "";
    if (!error && said(r)) serial = "";
  }
</script>

<section>
  <h3>Attached hardware</h3>
  {#if controller.links.length === 0}
    <ol>
      <li>
        Plug it in. Keyboards, pedals, game controls and MIDI of this computer are listed below the controllers at once;
        those of another one once <a href="/carry" target="_blank">this page</a> is open there.
      </li>
      <li>
        For hardware of any other kind start a bridge beside it: <span class="mono"
          >synaptor bridge --port /dev/ttyACM0</span
        >
      </li>
      <li>Attach it where it is listed, or choose a control here and touch it.</li>
    </ol>
  {/if}
  {#each controller.links as l (l.id)}<Attached {controller} link={l} />{/each}
  <div class="plate">
    <Plate
      {controller}
      keySize={Math.min(44, Math.floor(330 / controller.width))}
      {faceOf}
      landing={flashing}
      {selected}
      mode="select"
      onkey={(c) => {
        selected = c.id;
        key++;
      }}
    />
  </div>
  {#if learns && selected}
    {#key key}<Learn {controller} control={selected} ontaken={next} onclose={() => (learns = false)} />{/key}
  {:else if selected}
    <p>
      <strong>{selected}</strong>
      {bound.length ? `is ${bound.join(", ")}` : "is nothing on any hardware yet"}.
      <Act id="learn" onclick={() => (learns = true)}>Touch it</Act>
    </p>
  {:else}
    <p class="quiet">
      Choose a control, then touch what shall move it. <Act id="learn" onclick={() => (next(), undefined)}
        >Touch them in turn</Act
      >
    </p>
  {/if}
  {#if !controller.links.some((l) => l.kind === "keys-here")}
    <Act id="keys-here" onclick={async () => said(await post("keys-here", ""), "Its panels catch keys from now on.")}
      >Use the keys of the browser that shows it</Act
    >
  {/if}
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void attach();
    }}
  >
    <Text id="serial" label="Attach a board by its serial number" bind:value={serial} maxlength={120} {error} />
    <Act submit id="attach" disabled={!serial.trim()}>Attach</Act>
  </form>
</section>

<style>
  section,
  form {
    display: grid;
    gap: 0.4rem;
    width: 100%;
  }
  ol {
    padding-left: 1.2rem;
    list-style: decimal;
  }
  .plate {
    overflow: auto;
    padding: 0.2rem;
  }
</style>
