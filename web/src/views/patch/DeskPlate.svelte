<script lang="ts">
  import Text from "../../parts/form/Text.svelte";
  import { focusFirst } from "../../parts/focus";
  import { OverflowMenu, OverflowMenuItem } from "carbon-components-svelte";
  import { api, type Control, type Controller } from "../../api/client";
  import PageTabs from "../../parts/PageTabs.svelte";
  import Plate from "../../parts/Plate.svelte";
  import { mine } from "../../live/mine.svelte";
  import { said, show } from "../../live/show.svelte";
  import type { Desk } from "./desk.svelte";

  /** A controller on the desk drawing, with the pages of each of its zones. */
  let {
    controller,
    desk,
    keySize,
    scale,
    pageOf,
    selected,
    also,
    landing,
    pressed,
    filled,
    onkey,
    onpage,
    onfill,
    ondropfile,
  }: {
    controller: Controller;
    desk: Desk;
    keySize: number;
    /** Of the places on the desk. */
    scale: number;
    /** The page of a zone that is drawn. */
    pageOf: (zone: string) => string;
    selected: string;
    also: string[];
    landing: string[];
    pressed: string[];
    /** It is the only one that is drawn. */
    filled: boolean;
    onkey: (c: Control, e: PointerEvent) => void;
    onpage: (zone: string, page: string) => void;
    onfill: () => void;
    /** Files were dropped on a control. */
    ondropfile: (c: Control, files: FileList) => void;
  } = $props();

  const zones = $derived(controller.zones.map((zone) => ({ zone, pages: show.pagesOf(controller, zone) })));
  const shown = $derived(show.shown(controller.id));
  const zoneOf = $derived(new Map(controller.controls.map((c) => [c.id, c.zone])));

  async function name() {
    const n = desk.naming;
    if (!n) return;
    if (n.page) {
      const r = await api.PUT("/api/v1/pages/{page}", { params: { path: { page: n.page } }, body: { name: n.name } });
      if (said(r)) desk.naming = undefined;
      return;
    }
    const r = await api.POST("/api/v1/pages", {
      body: {
        name: n.name,
        profile: shown?.profile ?? controller.profile,
        layout: controller.layout,
        zone: n.zone,
      },
    });
    if (said(r) && r.data) {
      desk.naming = undefined;
      await show.load();
      onpage(n.zone, r.data.id);
    }
  }

  const at = (page: string) => ({ params: { path: { page } } });
  const own = $derived({ params: { path: { id: controller.id } } });

  async function duplicate(zone: string, page: string) {
    const r = await api.POST("/api/v1/pages/{page}/duplicate", at(page));
    if (said(r) && r.data) {
      await show.load();
      onpage(zone, r.data.id);
    }
  }

  /** Makes a page with a key for every page of a zone. */
  async function launcher(zone: string) {
    const r = await api.POST("/api/v1/launchers", {
      body: { name: "Launcher", profile: shown?.profile ?? controller.profile, layout: controller.layout, zone },
    });
    if (said(r, "The launcher is the first page now: home leads to it.") && r.data) {
      await show.load();
      onpage(zone, r.data.id);
    }
  }

  const nameOf = (page: string) => show.doc?.pages.find((p) => p.id === page)?.name ?? "";

  async function move(zone: string, page: string, by: number) {
    const position = (zones.find((z) => z.zone === zone)?.pages.findIndex((p) => p.id === page) ?? 0) + by;
    said(await api.PUT("/api/v1/pages/{page}", { ...at(page), body: { position: Math.max(0, position) } }));
  }

  // The header moves the whole controller on the desk.
  let offset = $state({ x: 0, y: 0 });

  function grab(e: PointerEvent) {
    if (filled || e.button !== 0 || (e.target as HTMLElement).closest("button, input")) return;
    const header = e.currentTarget as HTMLElement;
    const from = { x: e.clientX, y: e.clientY };
    header.setPointerCapture(e.pointerId);
    header.onpointermove = (m) => (offset = { x: m.clientX - from.x, y: m.clientY - from.y });
    header.onpointerup = header.onpointercancel = async (m) => {
      header.onpointermove = header.onpointerup = header.onpointercancel = null;
      const far = Math.hypot(offset.x, offset.y) > 4;
      const body = {
        x: Math.max(0, Math.round(controller.x + offset.x / scale)),
        y: Math.max(0, Math.round(controller.y + offset.y / scale)),
      };
      if (far && m.type === "pointerup") {
        said(await api.PUT("/api/v1/controllers/{id}/place", { ...own, body }));
        await show.load();
      }
      offset = { x: 0, y: 0 };
    };
  }
</script>

<section
  class="box"
  class:filled
  aria-label={controller.name}
  style:left="{filled ? 0 : Math.max(0, controller.x * scale + offset.x)}px"
  style:width="{Math.max(250, Math.round(controller.width * (keySize + Math.round(keySize / 12))) + 20)}px"
  style:top="{filled ? 0 : Math.max(0, controller.y * scale + offset.y)}px"
>
  <header onpointerdown={grab} ondblclick={onfill} role="presentation" title="Drag to arrange, Z to fill the drawing">
    <span class="name cut">{controller.name}</span>
    {#if zones.length === 1 && zones[0]}{@render pages(zones[0])}{/if}
  </header>
  {#if zones.length > 1}
    {#each zones as z (z.zone)}
      <div class="zone"><span class="quiet">{z.zone}</span>{@render pages(z)}</div>
    {/each}
  {/if}
  <Plate
    {controller}
    {keySize}
    {selected}
    {also}
    {landing}
    {pressed}
    faceOf={(id) => show.faceAt(pageOf(zoneOf.get(id) ?? ""), id)}
    whyNot={(id) => mine.whyNot(controller.id, show.page(pageOf(zoneOf.get(id) ?? ""))?.controls[id])}
    noteOf={(id) => show.noteAt(pageOf(zoneOf.get(id) ?? ""), id)}
    mode="select"
    {onkey}
    {ondropfile}
  />
</section>

{#snippet pages(z: (typeof zones)[number])}
  {@const page = pageOf(z.zone)}
  {#if desk.naming?.controller === controller.id && desk.naming.zone === z.zone}
    <form
      {@attach focusFirst}
      onsubmit={(e) => {
        e.preventDefault();
        void name();
      }}
      onfocusout={() => (desk.naming = undefined)}
    >
      <Text
        hideLabel
        label="Name of the page"
        placeholder={desk.naming.page ? "Name of the page" : "Cut, Dome, Sound …"}
        maxlength={300}
        bind:value={desk.naming.name}
        onkeydown={(e) => {
          if (e.key !== "Escape") return;
          e.stopPropagation();
          desk.naming = undefined;
        }}
      />
    </form>
  {:else}
    <PageTabs pages={z.pages} {page} shown={shown?.zones[z.zone] ?? []} onpage={(id) => onpage(z.zone, id)} />
    <span class="menu">
      <OverflowMenu size="sm" flipped iconDescription="Page menu of {controller.name}, {z.zone}">
        <OverflowMenuItem
          text="New page"
          data-menu="new"
          on:click={() => (desk.naming = { controller: controller.id, zone: z.zone, name: "" })}
        />
        <OverflowMenuItem text="Launcher page" data-menu="launcher" on:click={() => launcher(z.zone)} />
        <OverflowMenuItem
          text="Rename"
          data-menu="rename"
          on:click={() => (desk.naming = { controller: controller.id, zone: z.zone, page, name: nameOf(page) })}
        />
        <OverflowMenuItem text="Duplicate" data-menu="duplicate" on:click={() => duplicate(z.zone, page)} />
        <OverflowMenuItem
          text={show.page(page)?.scratch ? "Not scratch any more" : "Scratch page"}
          data-menu="scratch"
          on:click={async () => {
            const body = { scratch: !show.page(page)?.scratch };
            said(await api.PUT("/api/v1/pages/{page}", { params: { path: { page } }, body }));
          }}
        />
        <OverflowMenuItem text="Earlier" on:click={() => move(z.zone, page, -1)} />
        <OverflowMenuItem text="Later" on:click={() => move(z.zone, page, 1)} />
        <OverflowMenuItem
          text="Show it now"
          data-menu="show"
          on:click={async () => said(await api.PUT("/api/v1/controllers/{id}/page", { ...own, body: { page } }))}
        />
        <OverflowMenuItem
          text="Begin with it"
          data-menu="begin"
          on:click={async () =>
            said(
              await api.PUT("/api/v1/controllers/{id}/start", { ...own, body: { page } }),
              `${controller.name} begins with ${nameOf(page)}.`,
            )}
        />
        <OverflowMenuItem text="Print it" data-menu="print" href="/api/v1/pages/{page}/print.svg" target="_blank" />
        <OverflowMenuItem
          text="Print its gestures"
          data-menu="gestures"
          href="/api/v1/pages/{page}/print.svg?what=gestures"
          target="_blank"
        />
        <OverflowMenuItem
          danger
          text="Delete page"
          data-menu="delete"
          on:click={async () =>
            said(
              await api.DELETE("/api/v1/pages/{page}", at(page)),
              `${nameOf(page)} is deleted. Ctrl+Z brings it back.`,
            )}
        />
        <OverflowMenuItem
          danger
          text="Take controller away"
          on:click={async () =>
            said(
              await api.DELETE("/api/v1/controllers/{id}", own),
              `${controller.name} is off the desk. Ctrl+Z brings it back.`,
            )}
        />
      </OverflowMenu>
    </span>
  {/if}
{/snippet}

<style>
  .box {
    position: absolute;
    background: var(--plate);
    border: 1px solid var(--line);
    border-radius: 10px;
    padding: 0 12px 12px;
  }
  .filled {
    position: relative;
  }
  header,
  .zone {
    display: flex;
    align-items: center;
    gap: 0.6rem;
    height: 36px;
    font-size: 0.8125rem;
    min-width: 0;
  }
  header {
    cursor: grab;
    touch-action: none;
    margin-bottom: 6px;
  }
  .filled header {
    cursor: default;
  }
  .zone {
    height: 28px;
    margin-top: -8px;
    margin-bottom: 6px;
  }
  .name {
    color: var(--quiet);
    max-width: 12rem;
    flex: none;
  }
  .menu {
    margin-left: auto;
    flex: none;
  }
  form {
    flex: 1;
    min-width: 0;
  }
</style>
