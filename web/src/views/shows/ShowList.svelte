<script lang="ts">
  import { Button, OverflowMenu, OverflowMenuItem } from "carbon-components-svelte";
  import { api, fieldsOf, type Opening, type ShowInfo, type ShowList } from "../../api/client";
  import { focusFirst } from "../../parts/focus";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import None from "../../parts/form/None.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { route } from "../../live/route.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock, size } from "../../live/words.svelte";

  /** The shows as a list: one is open, others can be opened, copied, renamed, deleted and brought back. */
  let { onclose }: { onclose: () => void } = $props();

  const answer = new Answer<ShowList>();
  const list = $derived(answer.of("shows"));
  const load = () => answer.ask("shows", () => api.GET("/api/v1/shows"));
  $effect(() => {
    void show.doc;
    void load();
  });
  const shows = $derived((list?.shows ?? []).filter((s) => !s.deleted));
  const deleted = $derived((list?.shows ?? []).filter((s) => s.deleted));

  const at = (id: string) => ({ params: { path: { id } } });
  let name = $state("");
  let from = $state("");
  let fields = $state<Record<string, string>>({});
  let renaming = $state<{ id: string; name: string } | undefined>();
  /** What opening a show would end, while that is asked. */
  let asked = $state.raw<{ id: string; opening: Opening } | undefined>();
  let opening = $state("");

  async function add(e: SubmitEvent) {
    e.preventDefault();
    const r = await api.POST("/api/v1/shows", { body: { name, from } });
    fields = fieldsOf(r.error);
    if (!fields.name && said(r, `${name.trim()} is there. It is not open yet.`)) name = "";
    await load();
  }

  async function rename(e: SubmitEvent) {
    e.preventDefault();
    if (!renaming) return;
    const r = await api.PUT("/api/v1/shows/{id}", { ...at(renaming.id), body: { name: renaming.name } });
    if (said(r)) renaming = undefined;
    await load();
  }

  /** Opens a show, and asks first where something goes on. */
  async function open(s: ShowInfo) {
    opening = s.id;
    const r = await api.GET("/api/v1/shows/{id}/opening", at(s.id));
    opening = "";
    if (!said(r) || !r.data) return;
    if (r.data.asks) asked = { id: s.id, opening: r.data };
    else await put(s.id, s.name, false);
  }

  async function put(id: string, title: string, sure: boolean) {
    opening = id;
    const r = await api.POST("/api/v1/shows/{id}/open", { ...at(id), body: { sure } });
    opening = "";
    asked = undefined;
    if (!said(r, `${title} is open.`)) return;
    await show.load();
    route.go("/");
    onclose();
  }

  async function remove(s: ShowInfo) {
    said(await api.DELETE("/api/v1/shows/{id}", at(s.id)), `${s.name} is deleted, and kept for 30 days below.`);
    await load();
  }

  async function back(s: ShowInfo) {
    said(await api.POST("/api/v1/shows/{id}/back", at(s.id)), `${s.name} is back.`);
    await load();
  }

  const what = (s: ShowInfo) =>
    s.problem ??
    `${s.devices} ${s.devices === 1 ? "device" : "devices"}, ${s.keys} ${s.keys === 1 ? "key" : "keys"}, ${size(s.bytes)}`;
</script>

<div class="body">
  <ul>
    {#each shows as s (s.id)}
      <li class:now={s.id === list?.open} data-show={s.name}>
        {#if renaming?.id === s.id}
          <form {@attach focusFirst} onsubmit={rename}>
            <Text
              hideLabel
              maxlength={300}
              label="Name of the show"
              bind:value={renaming.name}
              onkeydown={(e) => e.key === "Escape" && (e.stopPropagation(), e.preventDefault(), (renaming = undefined))}
            />
            <Button size="small" type="submit">Rename</Button>
          </form>
        {:else}
          <h3>{s.name}</h3>
          {#if s.id === list?.open}<span class="quiet">open</span>{:else if !s.problem}
            <Button size="small" kind="tertiary" disabled={opening !== ""} on:click={() => open(s)}>Open</Button>
          {/if}
          <OverflowMenu size="sm" flipped iconDescription="More of {s.name}">
            <OverflowMenuItem text="Rename" on:click={() => (renaming = { id: s.id, name: s.name })} />
            <OverflowMenuItem text="Duplicate" on:click={() => ((from = s.id), (name = `${s.name}, copy`))} />
            {#if s.id !== list?.open}<OverflowMenuItem danger text="Delete" on:click={() => remove(s)} />{/if}
          </OverflowMenu>
        {/if}
        <p class={s.problem ? "wrong" : "quiet"}>
          {what(s)}{#if s.changed}; edited {ago(s.changed, clock.now)} ago{/if}
        </p>
        {#if asked?.id === s.id}
          {@const o = asked.opening}
          <div class="asked" role="alert" {@attach focusFirst}>
            <p>Something goes on. Opening {s.name} means:</p>
            <ul>
              {#each o.onAir as h (h)}<li>{h} goes on, and this show does not look after it any more</li>{/each}
              {#each o.runs as r, i (i)}<li>The run of {r} is halted</li>{/each}
              {#each o.talks as t, i (i)}<li>{t}: it is closed</li>{/each}
              {#if o.ends.length}<li>The links of {o.ends.join(", ")} end</li>{/if}
              {#if o.stays.length}<li>{o.stays.join(", ")} {o.stays.length === 1 ? "stays" : "stay"} connected</li>{/if}
            </ul>
            <p class="buttons">
              <Button size="small" kind="danger" on:click={() => put(s.id, s.name, true)}>Open it all the same</Button>
              <Button size="small" kind="ghost" on:click={() => (asked = undefined)}>Leave it</Button>
            </p>
          </div>
        {/if}
      </li>
    {:else}
      <li><None waits={answer.waits("shows")} problem={answer.problem("shows")}>There is no show.</None></li>
    {/each}
  </ul>
  <form onsubmit={add} class="rows">
    <h3>Add a show</h3>
    <Text id="show-name" label="Name" maxlength={300} bind:value={name} error={fields.name} />
    <Choice
      label="Begins"
      bind:value={from}
      choices={[{ value: "", text: "empty" }, ...shows.map((s) => ({ value: s.id, text: `as ${s.name} is now` }))]}
    />
    <div class="bare"><Button size="small" type="submit" disabled={!name.trim()}>Add</Button></div>
  </form>
  {#if deleted.length > 0}
    <h3>Deleted</h3>
    <ul>
      {#each deleted as s (s.id)}
        <li>
          <span>{s.name}</span>
          <span class="quiet">kept until {new Date(s.until ?? "").toLocaleDateString("en-GB")}</span>
          <Act onclick={() => back(s)}>Bring it back</Act>
        </li>
      {/each}
    </ul>
  {/if}
</div>

<style>
  .body > ul > li {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 0.5rem;
    align-items: center;
    padding: 0.5rem 0 0.5rem 0.75rem;
    border-left: 3px solid var(--line);
    margin-bottom: 0.4rem;
  }
  .body li.now {
    border-color: var(--select);
  }
  h3 {
    flex: 1;
  }
  li > p,
  .asked,
  li > form {
    flex-basis: 100%;
  }
  li > form {
    display: flex;
    gap: 0.5rem;
  }
  .asked {
    border: 1px solid var(--alarm);
    padding: 0.6rem 0.8rem;
  }
  .asked li {
    list-style: disc;
    margin-left: 1.1rem;
  }
</style>
