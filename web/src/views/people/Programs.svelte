<script lang="ts">
  import { api, fieldsOf, type Role, type Terms } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { roleText, roles, type People } from "../../live/people.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** Programs and their tokens, with what they are held to. */
  let { people }: { people: People } = $props();

  let name = $state("");
  let token = $state("");
  let fetches = $state(false);
  let terms = $state<{ skipsGuards: boolean; fetch: boolean; from: string; controllers: string[]; changes: string }>({
    skipsGuards: false,
    fetch: false,
    from: "",
    controllers: [],
    changes: "",
  });
  let perSecond = $state<number | null>(null);
  let errors = $state<Record<string, string>>({});

  /** What narrows an operator; nothing where nothing is ticked and no pattern stands. */
  function narrowed(role: Role): Terms["rights"] {
    const changes = terms.changes.split(/\s+/).filter(Boolean);
    if (role !== "operator" || (terms.controllers.length === 0 && changes.length === 0)) return undefined;
    return {
      controllers: terms.controllers.length > 0 ? terms.controllers : null,
      changes: changes.length > 0 ? changes : null,
    };
  }
  async function add(role: Role) {
    const rights = narrowed(role);
    const r = await api.POST("/api/v1/tokens", {
      body: {
        name,
        role: role as "editor" | "operator" | "viewer",
        terms: {
          skipsGuards: terms.skipsGuards,
          fetch: terms.fetch,
          from: terms.from.trim(),
          perSecond: perSecond ?? 0,
          ...(rights && { rights }),
        },
      },
    });
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length === 0 && said(r) && r.data) {
      token = r.data.token;
      fetches = terms.fetch;
      name = "";
      await people.load();
    }
    return false;
  }
  async function remove(id: string) {
    said(await api.DELETE("/api/v1/tokens/{id}", { params: { path: { id } } }));
    await people.load();
  }
  const held = (t: Terms) =>
    [
      t.rights?.controllers ? `${t.rights.controllers.length} of the controllers` : "",
      t.rights?.changes ? t.rights.changes.join(" ") : "",
      t.perSecond ? `${t.perSecond} a second` : "",
      t.skipsGuards ? "passes no guard" : "",
      t.fetch ? "by fetching an address" : "",
      t.from ? `OSC from ${t.from}` : "",
    ]
      .filter(Boolean)
      .join(", ");
  const controllers = $derived(show.doc?.controllers ?? []);
</script>

<p class="quiet">
  A program says its token: over HTTP as <span class="mono">Authorization: Bearer …</span>, a bridge with
  <span class="mono">--token</span>, over OSC as <span class="mono">/synaptor/token …</span> before its first press.
</p>
{#each people.doc?.programs ?? [] as p (p.id)}
  <p data-program={p.name}>
    <strong>{p.name}</strong>
    {roleText(p.role)}, {p.used ? `used ${ago(p.used, clock.now)} ago` : "never used"}
    <Act quiet onclick={() => remove(p.id)}>Take away</Act>
    {#if held(p.terms)}<br /><span class="quiet">{held(p.terms)}</span>{/if}
  </p>
{/each}
<Text id="program" label="Name of a program" bind:value={name} maxlength={80} error={errors["name"] ?? ""} />
<details>
  <summary>What it is held to</summary>
  <div class="terms">
    <p class="quiet">It presses these only; none ticked means all:</p>
    {#each controllers as c (c.id)}
      <Tick
        label={c.name}
        checked={terms.controllers.includes(c.id)}
        onchange={(on) =>
          (terms.controllers = on ? [...terms.controllers, c.id] : terms.controllers.filter((o) => o !== c.id))}
      />
    {/each}
    <Text
      label="It changes only"
      lines={2}
      bind:value={terms.changes}
      help="A line each, as device:path. Empty means everything that its controllers do."
      error={errors["changes"] ?? ""}
    />
    <Amount label="Inputs a second at most" bind:value={perSecond} error={errors["perSecond"] ?? ""} />
    <Text
      label="Its OSC messages come from"
      bind:value={terms.from}
      placeholder="192.168.1.30"
      help="Only for what cannot say a token: whoever is at this address can press then."
      error={errors["from"] ?? ""}
    />
    <Tick label="Its presses pass no guard" bind:checked={terms.skipsGuards} />
    <Tick label="It may press by fetching an address that has its token in it" bind:checked={terms.fetch} />
  </div>
</details>
<Choice
  id="program-role"
  label="It gets a token as"
  value=""
  disabled={!name.trim()}
  choices={[{ value: "", text: "Choose what it may do …" }, ...roles.slice(1)]}
  onchange={(to) => (to ? add(to as Role) : false)}
/>
{#if token}
  <p>Its token, which is told only now:</p>
  <p class="mono told" data-token>{token}</p>
  {#if fetches}
    <p class="quiet">
      It presses with <span class="mono told"
        >{location.origin}/api/v1/fetch/{token}/{controllers[0]?.slug ?? "controller"}/a1/press</span
      >
    </p>
  {/if}
{/if}

<style>
  details {
    width: 100%;
  }
  summary {
    cursor: pointer;
    color: var(--link);
  }
  .terms {
    display: grid;
    gap: 0.6rem;
    padding: 0.5rem 0 0 0.5rem;
  }
</style>
