<script lang="ts">
  import { api, type Control, type Controller, type Face } from "../../api/client";
  import { feed, presses, type Touch } from "../../live/feed.svelte";
  import { mine } from "../../live/mine.svelte";
  import { show } from "../../live/show.svelte";
  import PageTabs from "../../parts/PageTabs.svelte";
  import Plate from "../../parts/Plate.svelte";
  import TypeNow from "../../parts/TypeNow.svelte";
  import { keySize, least } from "./desk.svelte";
  import WhatItDoes from "./WhatItDoes.svelte";

  /** The controllers that were chosen, large. Clicks press. */
  let { ids }: { ids: string[] } = $props();

  const list = $derived(
    ids.map((id) => show.doc?.controllers.find((c) => c.id === id)).filter((c): c is Controller => !!c),
  );
  let width = $state(0);
  let height = $state(0);
  const key = $derived(keySize(list, width, height));

  const pages = $derived(list.flatMap((c) => c.zones.flatMap((zone) => show.pagesOf(c, zone).map((p) => p.id))));
  $effect(() => {
    feed.follow("desk", show.faceTopics(pages));
    return () => feed.follow("desk", []);
  });
  const faceOf = (c: Controller) => (control: string) =>
    feed.values.get(`face/${show.shown(c.id)?.controls[control]}`) as Face | undefined;
  const whyNot = (c: Controller) => (control: string) => mine.whyNot(c.id, show.shown(c.id)?.controls[control]);

  let pressed = $state<{ controller: Controller; control: string }[]>([]);
  const downOn = (c: Controller) => pressed.filter((p) => p.controller.id === c.id).map((p) => p.control);
  $effect(() => {
    if (!feed.connected) pressed = [];
  });
  /** The key that asks for a text, and what it asks for. */
  let asking = $state<{ controller: string; control: string; asks: string } | undefined>();
  function touch(controller: Controller, control: string, t: Touch) {
    const face = presses(t) ? faceOf(controller)(control) : undefined;
    if (face?.asks && t.edge === "up") asking = { controller: controller.slug, control, asks: face.label };
    if (face?.asks) return;
    const ends = t.edge === "up" || t.edge === "cancel";
    const is = (p: { controller: Controller; control: string }) =>
      p.controller.id === controller.id && p.control === control;
    if (ends && !pressed.some(is)) return;
    const sent = feed.touch(controller.slug, control, t, "desk");
    if (ends) pressed = pressed.filter((p) => !is(p));
    else if (t.edge === "down" && sent) pressed = [...pressed, { controller, control }];
  }
  const cancel = () => pressed.forEach((p) => touch(p.controller, p.control, { edge: "cancel" }));

  function go(c: Controller, page: string) {
    if (feed.connected)
      void api.PUT("/api/v1/controllers/{id}/page", { params: { path: { id: c.id } }, body: { page } });
  }

  /** The control under the pointer, or with the focus. */
  let over = $state<{ controller: Controller; control: Control } | undefined>();
  function look(e: Event) {
    const at = (e.target as HTMLElement).closest<HTMLElement>("[data-control]");
    const controller = list.find((c) => c.slug === at?.dataset["controller"]);
    const control = controller?.controls.find((c) => c.id === at?.dataset["control"]);
    over = controller && control ? { controller, control } : undefined;
  }
</script>

<svelte:window onblur={cancel} />

{#if asking}
  {#key asking.control}<TypeNow {...asking} via="desk" ondone={() => (asking = undefined)} />{/key}
{/if}

<section
  class:lost={!feed.connected}
  class="live"
  aria-label="Controllers: clicks press"
  data-help="desk/controllers"
  onpointerover={look}
  onfocusin={look}
  onpointerleave={() => (over = undefined)}
>
  <div class="room" class:scrolls={key <= least} bind:clientWidth={width} bind:clientHeight={height}>
    {#each list as c (c.id)}
      <article data-plate={c.slug}>
        <header>
          <span class="cut">{c.name}</span>
          {#each c.zones as zone (zone)}
            {@const pagesHere = show.pagesOf(c, zone)}
            {@const now = show.shown(c.id)?.zones[zone] ?? []}
            {#if pagesHere.length > 1}
              <PageTabs pages={pagesHere} page={now.at(-1) ?? ""} shown={now} onpage={(p) => go(c, p)} />
            {/if}
          {/each}
        </header>
        <Plate
          controller={c}
          keySize={key}
          faceOf={faceOf(c)}
          whyNot={whyNot(c)}
          pressed={downOn(c)}
          shown={show.shown(c.id)}
          mode="press"
          ontouch={(control, t) => touch(c, control.id, t)}
        />
      </article>
    {:else}
      <p class="quiet">
        {show.doc?.controllers.length
          ? "No controller is chosen for the Desk. Arrange chooses them."
          : "The show has no controller yet. Patch adds the first one."}
      </p>
    {/each}
  </div>
  <WhatItDoes {over} />
</section>

<style>
  section {
    border: 4px solid var(--alarm);
    border-radius: 8px;
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
  }
  .lost {
    border-color: var(--line);
  }
  .lost .room {
    opacity: 0.4;
    pointer-events: none;
  }
  .room {
    flex: 1;
    min-height: 0;
    overflow: hidden;
    display: flex;
    flex-wrap: wrap;
    align-content: flex-start;
  }
  .scrolls {
    overflow: auto;
  }
  article {
    padding: 0 7px 8px;
  }
  header {
    height: 30px;
    width: 0;
    min-width: 100%;
    display: flex;
    align-items: center;
    gap: 0.5rem;
    font-size: 0.8125rem;
    overflow: hidden;
  }
  header > span {
    font-weight: 600;
    flex: none;
    max-width: 60%;
  }
  p {
    padding: 2rem;
  }
</style>
