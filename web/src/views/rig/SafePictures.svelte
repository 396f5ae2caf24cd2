<script lang="ts">
  import { api, type SafeRow } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import None from "../../parts/form/None.svelte";
  import Rows from "../../parts/form/Rows.svelte";
  import FindAction, { type Offer } from "../../parts/FindAction.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said } from "../../live/show.svelte";
  import { ms } from "../../live/words.svelte";

  /** The outputs, each with the picture that it shows when everything has to be safe. */
  const answer = new Answer<SafeRow[]>();
  const rows = $derived(answer.of("all") ?? []);
  const load = () => answer.ask("all", () => api.GET("/api/v1/safe"));
  $effect(() => {
    void [feed.epoch, feed.values.get("show"), feed.values.get("status")];
    const soon = setTimeout(() => void load(), 200);
    return () => clearTimeout(soon);
  });
  /** The output whose safe picture is chosen. */
  let chosen = $state("");
  let words = $state("");
  const columns = [
    { text: "Output", by: (r: SafeRow) => r.title },
    { text: "Shows now" },
    { text: "Safe picture", by: (r: SafeRow) => r.action ?? "" },
    { text: "Lands in", numeric: true, by: (r: SafeRow) => r.landsMs },
    { text: "" },
  ];
  const at = (r: { output: string }) => ({ params: { path: { output: r.output } } });

  async function take(o: Offer) {
    const f = o.found;
    if (!f) return;
    const then = { device: f.device, action: f.id, params: f.params };
    if (!said(await api.PUT("/api/v1/safe/{output}", { ...at({ output: chosen }), body: { then } }))) return;
    words = chosen = "";
    await load();
  }
  async function remove(r: SafeRow) {
    said(await api.DELETE("/api/v1/safe/{output}", at(r)), "The safe picture is taken away. Undo brings it back.");
    await load();
  }
  async function press(output = "") {
    said(await api.POST("/api/v1/safe", { body: output ? { output } : {} }));
  }
</script>

<header class="next" id="safe-pictures" tabindex="-1">
  <h1>Outputs and their safe pictures</h1>
  {#if rows.some((r) => r.action)}
    <Act id="safe" title="Puts all safe pictures on, at once" onclick={() => press()}>Show all of them now</Act>
  {/if}
</header>
<Rows label="Outputs" {columns} {rows} key={(r) => r.output} current={chosen} data-output={(r: SafeRow) => r.output}>
  {#snippet cells(r)}
    <td><strong>{r.title}</strong></td>
    <td>{r.now || "not known"}</td>
    <td
      >{#if r.action}{r.action}{:else}<span class="quiet">none yet</span>{/if}
      {#if r.safe}<span class="phase up">safe</span>{/if}
      {#if r.problem}<small class="bad">{r.problem}</small>{/if}</td
    >
    <td class="num mono">{r.landsMs ? ms(r.landsMs * 1000) : "–"}</td>
    <td
      ><Act
        aria-label="{r.action ? 'Another' : 'Choose'} for {r.title}"
        onclick={() => (chosen = chosen === r.output ? "" : r.output)}>{r.action ? "Another" : "Choose"}</Act
      >
      {#if r.action}
        <Act quiet aria-label="Show it now: {r.title}" onclick={() => press(r.output)}>Show it now</Act>
        <Act quiet aria-label="Take away: {r.title}" onclick={() => remove(r)}>Take away</Act>
      {/if}</td
    >
  {/snippet}
</Rows>
{#if rows.length === 0}
  <None waits={answer.waits("all")} problem={answer.problem("all")}
    >No output is known yet: programs of mix effects, picture outputs and scenes are, once their devices have answered.</None
  >
{/if}
{#if chosen}
  {#key chosen}
    <FindAction
      bind:words
      id="safe-find"
      label="What it shows"
      placeholder="What should {rows.find((r) => r.output === chosen)?.title} show? black on foyer, back soon, bars …"
      above
      ontake={take}
      onleave={() => (chosen = "")}
    />
  {/key}
{/if}

<style>
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    margin: 1.5rem 0 0.5rem;
  }
  small {
    display: block;
  }
</style>
