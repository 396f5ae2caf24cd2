<script lang="ts">
  import { api, type NightRow, type Preflight, type WeighedFinding } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import None from "../../parts/form/None.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { single } from "../../live/keys.svelte";
  import { route } from "../../live/route.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";
  import FindingRow from "./FindingRow.svelte";
  import Night from "./Night.svelte";
  import RollCall from "./RollCall.svelte";

  /** Whether the show is ready to go on air: one verdict, what speaks against it, and what only asking around can tell. */
  const answer = new Answer<Preflight>();
  const doc = $derived(answer.of("all"));
  const load = () => answer.ask("all", () => api.GET("/api/v1/preflight"));
  $effect(() => {
    void [
      feed.epoch,
      feed.values.get("show"),
      feed.values.get("findings"),
      (feed.values.get("night") as NightRow | undefined)?.at,
    ];
    void load();
  });

  // It is looked at again meanwhile, and the verdict shows its age.
  $effect(() => {
    const again = setInterval(() => void load(), 10_000);
    return () => clearInterval(again);
  });

  const counts = (f: WeighedFinding) => !f.accepted || f.stale === true;
  const counting = $derived((doc?.findings ?? []).filter(counts));
  const known = $derived([...(doc?.findings ?? []), ...(doc?.night?.findings ?? []), ...(doc?.night?.moves ?? [])]);
  const accepted = $derived(known.filter((f) => !counts(f)));
  const groups = $derived(
    [
      { id: "stops", title: "Stops the show", list: counting.filter((f) => f.severity === "stops") },
      { id: "caution", title: "Look at this", list: counting.filter((f) => f.severity === "caution") },
      { id: "note", title: "Good to know", list: counting.filter((f) => f.severity === "note") },
      { id: "night", title: "From the rehearsal of the night", list: (doc?.night?.findings ?? []).filter(counts) },
      { id: "moves", title: "Better placed", list: (doc?.night?.moves ?? []).filter(counts) },
      { id: "accepted", title: "Accepted", list: accepted },
    ].filter((g) => g.list.length > 0),
  );
  const empty = $derived(!!show.doc && show.doc.devices.length + show.doc.controllers.length === 0);
  const verdicts = { ready: "Ready", "ready-but": "Ready, but", "not-ready": "Not ready" } as const;
  const things = (n: number, one: string, many: string) => (n === 1 ? `one thing ${one}` : `${n} things ${many}`);
  const because = $derived.by(() => {
    const of = (severity: string) => counting.filter((f) => f.severity === severity).length;
    const parts = [];
    if (of("stops")) parts.push(things(of("stops"), "stops the show", "stop the show"));
    if (of("caution")) parts.push(things(of("caution"), "wants a look", "want a look"));
    if (parts.length === 0) parts.push("nothing speaks against going on air");
    if (accepted.length) parts.push(`${accepted.length} ${accepted.length === 1 ? "is" : "are"} accepted`);
    return parts.join(", ");
  });

  const keyOf = (f: WeighedFinding) => `${f.id} ${f.subject.kind} ${f.subject.id} ${f.at ?? ""}`;
  /** What is open under a finding: what its fix would change, or the reason to accept it. */
  let open = $state<{ key: string; part: "fix" | "accept" } | undefined>();
  const toggle = (f: WeighedFinding, part: "fix" | "accept") =>
    (open = open?.key === keyOf(f) && open.part === part ? undefined : { key: keyOf(f), part });
  async function reconsider(f: WeighedFinding) {
    const path = { id: f.acceptedId ?? "" };
    said(await api.DELETE("/api/v1/preflight/accepted/{id}", { params: { path } }), "It counts again.");
    await load();
  }
  async function done() {
    open = undefined;
    await load();
  }

  let root = $state<HTMLElement>();
  function onkeydown(e: KeyboardEvent) {
    const rows = [...(root?.querySelectorAll<HTMLElement>("[data-finding]") ?? [])];
    const at = rows.findIndex((r) => r.contains(e.target as Node));
    const by = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
    const f = known.find((o) => keyOf(o) === rows[at]?.dataset.key);
    if (e.key === "Escape" && open) open = undefined;
    else if (by !== 0 && !(e.target as HTMLElement).matches("input"))
      rows[Math.max(0, at + by)]?.querySelector<HTMLElement>(".show")?.focus();
    else if (f && single(e) && e.key === "f" && f.fix && !f.accepted) toggle(f, "fix");
    else if (f && single(e) && e.key === "a" && counts(f)) toggle(f, "accept");
    else return;
    e.preventDefault();
  }
</script>

<div data-help="parts/findings" class="view">
  <div class="found" role="presentation" bind:this={root} {onkeydown}>
    {#if doc}
      <header data-verdict={doc.verdict}>
        <h1>{empty ? "Nothing to look at yet" : verdicts[doc.verdict]}</h1>
        <p>
          {#if empty}The show has no devices and no controllers.{:else}{because[0]?.toUpperCase()}{because.slice(
              1,
            )}.{/if}
        </p>
        <small class="quiet" title="What is found is looked at again with every edit, and every few seconds"
          >looked at {ago(doc.at, clock.now)} ago</small
        >
      </header>
    {/if}
    {#each groups as g (g.id)}
      <h2>{g.title} <span class="quiet">{g.list.length}</span></h2>
      {#each g.list as f (keyOf(f))}
        <FindingRow
          {f}
          key={keyOf(f)}
          open={open?.key === keyOf(f) ? open.part : ""}
          onopen={(part) => toggle(f, part)}
          onreconsider={() => reconsider(f)}
          onshow={() => route.go(f.path)}
          ondone={done}
        />
      {/each}
    {:else}
      <p class="hint">
        <None waits={answer.waits("all")} problem={answer.problem("all")}
          >Nothing was found: no key does what cannot be done, no macro cuts itself short, no page is lost. What only
          asking around can tell is at the right.</None
        >
      </p>
    {/each}
    {#if counting.length > 1}<p class="quiet hint">
        <kbd>↑</kbd> <kbd>↓</kbd> go through what was found, <kbd>Enter</kbd> shows it, <kbd>F</kbd> previews its fix,
        <kbd>A</kbd> accepts it.
      </p>{/if}
  </div>
  <aside>
    <RollCall />
    <Night night={doc?.night} />
  </aside>
</div>

<style>
  .view {
    height: 100%;
    display: grid;
    grid-template-columns: minmax(0, 1fr) 440px;
    font-size: 0.875rem;
    line-height: 1.35;
  }
  .found {
    overflow: auto;
    padding: 1.25rem 1.5rem;
  }
  aside {
    overflow: auto;
    border-left: 1px solid var(--line);
    padding: 1.25rem 1.25rem 2rem;
    font-size: 0.8125rem;
  }
  header {
    display: grid;
    grid-template-columns: 1fr auto;
    align-items: baseline;
    border-left: 6px solid var(--line);
    padding-left: 1rem;
  }
  header p {
    grid-column: 1;
  }
  [data-verdict="not-ready"] {
    border-color: var(--finding);
  }
  [data-verdict="ready"] {
    border-color: var(--select);
  }
  h1 {
    font-size: 1.75rem;
    line-height: 1.2;
  }
  h2 {
    font-size: 0.875rem;
    margin: 1.4rem 0 0.3rem;
  }
  .hint {
    margin-top: 1.2rem;
  }
  @media (max-width: 1000px) {
    .view {
      grid-template-columns: 1fr;
      overflow: auto;
    }
    .found,
    aside {
      overflow: visible;
    }
  }
</style>
