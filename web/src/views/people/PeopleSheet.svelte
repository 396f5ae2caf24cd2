<script lang="ts">
  import { onMount } from "svelte";
  import { api, fieldsOf, type PeopleDoc, type Role } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Parts from "../../parts/form/Parts.svelte";
  import Text from "../../parts/form/Text.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import Narrow from "./Narrow.svelte";
  import { me } from "../../live/me.svelte";
  import { said } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** Who may get in: nobody has to sign in until somebody sets a passphrase. */
  let { onclose }: { onclose: () => void } = $props();

  const owner = $derived(me.now?.claimed === true && me.now.role === "owner");
  const parts = $derived([
    { id: "you", text: "You" } as const,
    ...(owner ? [{ id: "people", text: "People" } as const, { id: "programs", text: "Programs" } as const] : []),
  ]);
  let part = $state<"you" | "people" | "programs">("you");
  let doc = $state.raw<PeopleDoc | undefined>();
  async function load() {
    await me.load();
    if (!owner) return;
    const { data } = await api.GET("/api/v1/people");
    if (data) doc = data;
  }
  /** Who is here is asked for again and again, while somebody looks. */
  const every = 3000;
  onMount(() => {
    void load();
    const again = setInterval(() => void load(), every);
    return () => clearInterval(again);
  });

  const roles: { value: Role; text: string }[] = [
    { value: "owner", text: "Owner: everything" },
    { value: "editor", text: "Editor: changes the show" },
    { value: "operator", text: "Operator: presses controllers" },
    { value: "viewer", text: "Viewer: sees, and presses nothing" },
  ];
  /** What a browser says it runs on. */
  const on = (agent: string) => {
    const system = /Windows|Macintosh|Android|iPhone|iPad|Linux/.exec(agent)?.[0];
    return system ? `a browser on ${system}` : "a browser";
  };
  const roleText = (r: string) => roles.find((o) => o.value === r)?.text.split(":")[0] ?? "";

  let name = $state("");
  let passphrase = $state("");
  let old = $state("");
  let errors = $state<Record<string, string>>({});
  async function claim() {
    const r = await api.POST("/api/v1/claim", { body: { name, passphrase } });
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length > 0 || !said(r, "From now on nobody gets in without signing in.")) return;
    name = passphrase = "";
    await load();
  }
  async function change() {
    const r = await api.PUT("/api/v1/me/passphrase", { body: { old, passphrase } });
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length === 0 && said(r, "The passphrase is changed.")) old = passphrase = "";
  }
  async function leave() {
    if (said(await api.POST("/api/v1/sign-out"))) location.href = "/sign-in";
  }

  let invited = $state<{ link: string; role: string } | undefined>();
  async function invite(role: Role) {
    const r = await api.POST("/api/v1/invitations", { body: { role } });
    if (said(r) && r.data) invited = { link: location.origin + r.data.link, role };
    return false;
  }
  const at = (id: string) => ({ params: { path: { id } } });
  async function setRole(id: string, role: Role) {
    const ok = said(await api.PUT("/api/v1/people/{id}", { ...at(id), body: { role } }));
    await load();
    return ok;
  }
  async function remove(id: string, who: string) {
    said(await api.DELETE("/api/v1/people/{id}", at(id)), `${who} may not get in any more.`);
    await load();
  }
  async function end(id: string) {
    said(await api.DELETE("/api/v1/sessions/{id}", at(id)));
    await load();
  }
  let program = $state("");
  let token = $state("");
  async function addProgram(role: Role) {
    const r = await api.POST("/api/v1/tokens", {
      body: { name: program, role: role as "editor" | "operator" | "viewer" },
    });
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length === 0 && said(r) && r.data) {
      token = r.data.token;
      program = "";
      await load();
    }
    return false;
  }
  async function removeProgram(id: string) {
    said(await api.DELETE("/api/v1/tokens/{id}", at(id)));
    await load();
  }
  const send = (f: () => unknown) => (e: SubmitEvent) => {
    e.preventDefault();
    void f();
  };
</script>

<SideSheet title="People" {onclose}>
  {#if parts.length > 1}<Parts {parts} bind:value={part} />{/if}
  <div class="body">
    {#if part === "you" && me.now && !me.now.claimed}
      <p>
        Everybody who uses this computer is Synaptor's owner. Set a passphrase, and nobody gets in without signing in:
        you first, then whoever you invite.
      </p>
      <form onsubmit={send(claim)}>
        <Text id="claim-name" label="Your name" bind:value={name} maxlength={80} error={errors["name"] ?? ""} />
        <Text
          id="claim-passphrase"
          label="Passphrase"
          type="password"
          help="At least 10 characters; a few words are easy to keep in mind."
          bind:value={passphrase}
          maxlength={200}
          error={errors["passphrase"] ?? ""}
        />
        <Act submit id="claim" disabled={!name.trim() || !passphrase}>Set the passphrase</Act>
      </form>
      <p class="quiet">
        A passphrase that is forgotten cannot be told by anybody. Whoever may write into the data folder can move
        people.db away; then nobody has to sign in again.
      </p>
    {:else if part === "you" && me.now?.who}
      <p><strong>{me.now.who.name}</strong>, {roleText(me.now.role).toLowerCase()}</p>
      <Act id="sign-out" onclick={leave}>Sign out</Act>
      <form onsubmit={send(change)}>
        <Text id="old" label="Passphrase so far" type="password" bind:value={old} error={errors["old"] ?? ""} />
        <Text
          id="new"
          label="New passphrase"
          type="password"
          bind:value={passphrase}
          maxlength={200}
          error={errors["passphrase"] ?? ""}
        />
        <Act submit disabled={!old || !passphrase}>Change it</Act>
      </form>
    {:else if part === "people"}
      {#each doc?.people ?? [] as p (p.id)}
        {@const sessions = doc?.sessions.filter((s) => s.person === p.id) ?? []}
        <article data-person={p.name}>
          <header>
            <strong>{p.name}</strong>
            <Choice
              label="What {p.name} may do"
              hideLabel
              value={p.role}
              choices={roles}
              onchange={(to) => setRole(p.id, to as Role)}
            />
            <Act quiet onclick={() => remove(p.id, p.name)}>Remove</Act>
          </header>
          {#if p.role === "operator"}<Narrow who={p} onset={load} />{/if}
          {#each sessions as s (s.id)}
            <p class="quiet">
              seen {ago(s.seen, clock.now)} ago, {on(s.agent)}
              <Act quiet onclick={() => end(s.id)}>End</Act>
            </p>
          {:else}<p class="quiet">not signed in</p>{/each}
        </article>
      {/each}
      <Choice
        id="invite"
        label="Invite somebody as"
        value=""
        choices={[{ value: "", text: "Choose what they may do …" }, ...roles]}
        onchange={(to) => (to ? invite(to as Role) : false)}
      />
      {#if invited}
        <p>This link works once, for a week, for one {invited.role}:</p>
        <p class="mono link" data-invited>{invited.link}</p>
        <img
          class="qr"
          src="/api/v1/qr.svg?text={encodeURIComponent(invited.link)}"
          alt="The invitation as a QR code"
        />
      {/if}
    {:else if part === "programs"}
      <p class="quiet">
        A program says its token: over HTTP as <span class="mono">Authorization: Bearer …</span>, a bridge with
        <span class="mono">--token</span>.
      </p>
      {#each doc?.programs ?? [] as p (p.id)}
        <p data-program={p.name}>
          <strong>{p.name}</strong>
          {roleText(p.role).toLowerCase()}, {p.used ? `used ${ago(p.used, clock.now)} ago` : "never used"}
          <Act quiet onclick={() => removeProgram(p.id)}>Take away</Act>
        </p>
      {/each}
      <Text id="program" label="Name of a program" bind:value={program} maxlength={80} error={errors["name"] ?? ""} />
      <Choice
        id="program-role"
        label="It gets a token as"
        value=""
        disabled={!program.trim()}
        choices={[{ value: "", text: "Choose what it may do …" }, ...roles.slice(1)]}
        onchange={(to) => (to ? addProgram(to as Role) : false)}
      />
      {#if token}
        <p>Its token, which is told only now:</p>
        <p class="mono link" data-token>{token}</p>
      {/if}
    {/if}
  </div>
</SideSheet>

<style>
  .body,
  form,
  article {
    display: grid;
    gap: 0.75rem;
    justify-items: start;
  }
  .body {
    padding: 0.75rem 1rem 1rem;
  }
  form,
  article {
    width: 100%;
  }
  header {
    display: flex;
    gap: 0.75rem;
    align-items: center;
    width: 100%;
  }
  .link {
    overflow-wrap: anywhere;
    user-select: all;
  }
  .qr {
    width: 9rem;
  }
</style>
