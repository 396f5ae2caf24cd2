<script lang="ts">
  import { api, type Path } from "../api/client";
  import { Answer } from "../live/answer.svelte";
  import { asking } from "../live/asking.svelte";
  import { show } from "../live/show.svelte";
  import { ms, phases } from "../live/words.svelte";
  import None from "./form/None.svelte";
  import Popover from "./Popover.svelte";

  /** Explains a key by what it does, or a part of the application by what the documents say of it. */
  interface Topic {
    id: string;
    title: string;
    html: string;
  }
  const answer = new Answer<Topic>();
  const topic = $derived(answer.of(asking.topic));
  $effect(() => {
    const id = asking.topic;
    if (!id) return;
    const [document = "", section] = id.split("/");
    void answer.ask(id, () =>
      section
        ? api.GET("/api/v1/help/{document}/{section}", { params: { path: { document, section } } })
        : api.GET("/api/v1/help/{document}", { params: { path: { document } } }),
    );
  });

  const path = new Answer<Path>();
  const of = $derived.by(() => {
    const at = asking.control;
    const c = show.doc?.controllers.find((x) => x.slug === at?.controller);
    const control = c?.controls.find((x) => x.id === at?.control);
    if (!at || !c || !control) return undefined;
    const shown = show.shown(c.id);
    const pages = shown?.zones[control.zone] ?? [];
    const page =
      at.page ??
      [...pages].reverse().find((p) => show.page(p)?.controls[control.id] === shown?.controls[control.id]) ??
      pages.at(-1);
    return page ? { page, control: control.id, name: c.name, about: `${page}/${control.id}` } : undefined;
  });
  $effect(() => {
    if (!of) return;
    const params = { path: { page: of.page, control: of.control } };
    void path.ask(of.about, () => api.GET("/api/v1/pages/{page}/controls/{control}/path", { params }));
  });
  const doc = $derived(of && path.of(of.about));

  function follow(e: MouseEvent) {
    const href = (e.target as HTMLElement).closest("a")?.getAttribute("href") ?? "";
    if (!href.startsWith("#help/")) return;
    e.preventDefault();
    asking.topic = href.slice("#help/".length);
  }
</script>

{#if asking.topic}
  <Popover title={topic?.title ?? "What is this?"} wide onclose={() => asking.close()}>
    {#if topic}
      <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
      <div class="prose" id="explained" onclick={follow}>
        <!-- eslint-disable-next-line svelte/no-at-html-tags -->
        {@html topic.html}
        <p class="quiet">From docs/{topic.id.split("/")[0]}.md</p>
      </div>
    {:else}
      <None waits={answer.waits(asking.topic)} problem={answer.problem(asking.topic)}>Nothing is said of it.</None>
    {/if}
  </Popover>
{:else if of}
  <Popover title="{of.control} of {of.name}" wide onclose={() => asking.close()}>
    <div class="prose" id="explained">
      {#if !doc}
        <None waits={path.waits(of.about)} problem={path.problem(of.about)}>Nothing is known of it.</None>
      {:else if doc.does.length === 0}
        <p>It does nothing on the page {doc.pageName}.</p>
      {:else}
        {#each doc.does as d (d.gesture)}
          <p><span class="quiet">On a {d.gesture}:</span> <b>{d.problem || d.title}</b></p>
          {#if d.macro}
            <ol>
              {#each d.macro.lines.slice(0, 30) as l, i (i)}<li style:padding-left="{l.depth}rem">{l.title}</li>{/each}
            </ol>
          {:else if d.action?.help}<p>{d.action.help}</p>{/if}
        {/each}
        {#if doc.mapping?.guard}<p>It is guarded: {doc.mapping.guard.kind}, {doc.mapping.guard.ms} ms.</p>{/if}
        {#each doc.drives as d (d.device)}
          <p class="quiet">
            Drives {d.name}{show.link(d.device) ? `, which is ${phases[show.link(d.device)!.phase]}` : ""}{d.latency
              .count > 0
              ? ` and confirms within ${ms(d.latency.p95Us)}, mostly`
              : ""}.
          </p>
        {/each}
        {#if doc.readings.length > 0}
          <p class="quiet">What comes back: {doc.readings.map((r) => r.title).join(", ")}.</p>
        {/if}
      {/if}
    </div>
  </Popover>
{/if}
