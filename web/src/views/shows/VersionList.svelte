<script lang="ts">
  import { Button, OverflowMenu, OverflowMenuItem } from "carbon-components-svelte";
  import { api, fieldsOf, type Difference, type Version } from "../../api/client";
  import { focusFirst } from "../../parts/focus";
  import Act from "../../parts/form/Act.svelte";
  import None from "../../parts/form/None.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock, kindWords, size } from "../../live/words.svelte";

  /** The versions of the show that is open: kept by themselves or by name, compared with the show as it is, and back. */
  const answer = new Answer<Version[]>();
  const about = $derived(show.doc?.id ?? "");
  const versions = $derived(answer.of(about) ?? []);
  const load = () => answer.ask(about, () => api.GET("/api/v1/versions"));
  $effect(() => {
    void show.doc;
    void load();
  });

  let name = $state("");
  let fields = $state<Record<string, string>>({});
  let naming = $state<{ id: number; name: string } | undefined>();
  /** The version whose differences are looked at. */
  let open = $state(0);
  const changes = new Answer<Difference[]>();
  const key = $derived(`${about}/${open}`);
  const at = (id: number) => ({ params: { path: { id } } });
  $effect(() => {
    void show.doc;
    if (open) void changes.ask(key, () => api.GET("/api/v1/versions/{id}/changes", at(open)));
  });

  async function keep(e: SubmitEvent) {
    e.preventDefault();
    const r = await api.POST("/api/v1/versions", { body: { name } });
    fields = fieldsOf(r.error);
    if (!fields.name && said(r, `“${name.trim()}” is kept.`)) name = "";
    await load();
  }

  async function rename(e: SubmitEvent) {
    e.preventDefault();
    if (naming && said(await api.PUT("/api/v1/versions/{id}", { ...at(naming.id), body: { name: naming.name } })))
      naming = undefined;
    await load();
  }

  async function drop(v: Version) {
    if (said(await api.DELETE("/api/v1/versions/{id}", at(v.id)), "The version is gone.") && open === v.id) open = 0;
    await load();
  }

  async function back(v: Version, only: Difference[] = []) {
    const body = { only: only.map((d) => ({ kind: d.kind, id: d.id })) };
    const r = await api.POST("/api/v1/versions/{id}/restore", { ...at(v.id), body });
    const what = only.map((d) => d.title).join(", ") || "The show";
    said(r, `${what} is as it was ${ago(v.at, clock.now)} ago. Ctrl+Z takes that back.`);
    await load();
  }

  const title = (v: Version) => v.name || v.why;
</script>

<div class="body">
  <form onsubmit={keep} class="inline">
    <Text id="version-name" label="Keep it as" maxlength={300} bind:value={name} error={fields.name} />
    <Button size="small" type="submit" disabled={!name.trim()}>Keep</Button>
  </form>
  <p class="quiet">
    While you edit, a version is kept every ten minutes, and before much is deleted. Those with a name stay; the others
    thin out with age.
  </p>
  <ul>
    {#each versions as v (v.id)}
      <li class:now={v.now} data-version={title(v)}>
        {#if naming?.id === v.id}
          <form {@attach focusFirst} onsubmit={rename} class="inline">
            <Text
              hideLabel
              maxlength={300}
              label="Name of the version"
              bind:value={naming.name}
              onkeydown={(e) => e.key === "Escape" && (e.stopPropagation(), e.preventDefault(), (naming = undefined))}
            />
            <Button size="small" type="submit">Name it</Button>
          </form>
        {:else}
          <Act class="title" aria-expanded={open === v.id} onclick={() => (open = open === v.id ? 0 : v.id)}
            ><strong class:unnamed={!v.name}>{title(v)}</strong></Act
          >
          <OverflowMenu size="sm" flipped iconDescription="More of {title(v)}">
            <OverflowMenuItem
              text={v.name ? "Rename" : "Give it a name"}
              on:click={() => (naming = { id: v.id, name: v.name })}
            />
            <OverflowMenuItem danger text="Delete" on:click={() => drop(v)} />
          </OverflowMenu>
        {/if}
        <p class="quiet">{ago(v.at, clock.now)} ago, by {v.by}, {size(v.bytes)}{v.now ? "; as it is now" : ""}</p>
        {#if open === v.id}
          {@const list = changes.of(key)}
          <div class="changes">
            {#if list?.length}
              <p>Since then:</p>
              <ul>
                {#each list as d (d.kind + d.id)}
                  <li>
                    <span
                      ><b>{kindWords[d.kind] ?? d.kind}</b>
                      {d.title}: {d.fields.join(", ") || d.what}</span
                    >
                    {#if d.alone}<Act onclick={() => back(v, [d])}>Take back just this</Act>{/if}
                  </li>
                {/each}
              </ul>
              <Button size="small" on:click={() => back(v)}>Go back to it</Button>
            {:else}
              <None waits={changes.waits(key)} problem={changes.problem(key)}>Nothing has changed since then.</None>
            {/if}
          </div>
        {/if}
      </li>
    {:else}
      <li>
        <None waits={answer.waits(about)} problem={answer.problem(about)}
          >None yet. The first is kept ten minutes after the first edit, or when you give it a name.</None
        >
      </li>
    {/each}
  </ul>
</div>

<style>
  .body > ul > li {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    justify-content: space-between;
    padding: 0.3rem 0 0.5rem 0.75rem;
    border-left: 3px solid var(--line);
    margin-bottom: 0.4rem;
  }
  .body li.now {
    border-color: var(--select);
  }
  li > p,
  .changes,
  li > form {
    flex-basis: 100%;
  }
  strong {
    font-weight: 600;
    text-align: left;
  }
  .unnamed {
    font-weight: 400;
  }
  .changes {
    display: grid;
    gap: 0.4rem;
    justify-items: start;
    padding: 0.4rem 0;
  }
  .changes ul {
    width: 100%;
    max-height: 40vh;
    overflow: auto;
  }
  .changes li {
    display: flex;
    justify-content: space-between;
    gap: 0.5rem;
    padding: 0.2rem 0;
    border-top: 1px solid var(--raster);
  }
</style>
