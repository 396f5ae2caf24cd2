<script lang="ts">
  import { api, fieldsOf, type Role } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Narrow from "./Narrow.svelte";
  import Presence from "./Presence.svelte";
  import { roles, type People } from "../../live/people.svelte";
  import { said } from "../../live/show.svelte";

  /** People: what they may do, where they are, and how they are invited. */
  let { people }: { people: People } = $props();

  const persons = $derived(people.doc?.people.filter((p) => !p.panel) ?? []);
  let invited = $state<{ link: string; name: string } | undefined>();
  const at = (id: string) => ({ params: { path: { id } } });

  async function invite(role: Role) {
    const r = await api.POST("/api/v1/invitations", { body: { role } });
    if (said(r) && r.data) invited = { link: location.origin + r.data.link, name: `one ${role}` };
    return false;
  }
  async function inviteExpected(id: string, name: string) {
    const r = await api.POST("/api/v1/people/{id}/invitation", at(id));
    if (said(r) && r.data) invited = { link: location.origin + r.data.link, name };
  }
  let name = $state("");
  let error = $state("");
  async function expect(role: Role) {
    const r = await api.POST("/api/v1/people", { body: { name, role } });
    error = fieldsOf(r.error)["name"] ?? "";
    if (!error && said(r)) name = "";
    await people.load();
    return false;
  }
  async function setRole(id: string, role: Role) {
    const ok = said(await api.PUT("/api/v1/people/{id}", { ...at(id), body: { role } }));
    await people.load();
    return ok;
  }
  async function remove(id: string, who: string) {
    said(await api.DELETE("/api/v1/people/{id}", at(id)), `${who} may not get in any more.`);
    await people.load();
  }
</script>

{#each persons as p (p.id)}
  <article data-person={p.name}>
    <header>
      <strong>{p.name}</strong>
      <Choice
        label="What {p.name} may do"
        hideLabel
        value={p.role}
        choices={[...roles]}
        onchange={(to) => setRole(p.id, to as Role)}
      />
      <Act quiet onclick={() => remove(p.id, p.name)}>Remove</Act>
    </header>
    {#if p.role === "operator"}<Narrow who={p} onset={people.load} />{/if}
    {#if p.expected}
      <p class="quiet">
        Expected, and has no passphrase yet. <Act onclick={() => inviteExpected(p.id, p.name)}>Invite {p.name}</Act>
      </p>
    {:else}<Presence {people} who={p} />{/if}
  </article>
{/each}
{#if invited}
  <p>This link works once, for a week, for {invited.name}:</p>
  <p class="mono told" data-invited>{invited.link}</p>
  <img class="qr" src="/api/v1/qr.svg?text={encodeURIComponent(invited.link)}" alt="The invitation as a QR code" />
{/if}
<Choice
  id="invite"
  label="Invite somebody as"
  value=""
  choices={[{ value: "", text: "Choose what they may do …" }, ...roles]}
  onchange={(to) => (to ? invite(to as Role) : false)}
/>
<Text id="expected" label="Or have somebody listed first" bind:value={name} maxlength={80} {error} />
<Choice
  id="expected-role"
  label="as"
  value=""
  disabled={!name.trim()}
  choices={[{ value: "", text: "Choose what they may do …" }, ...roles]}
  onchange={(to) => (to ? expect(to as Role) : false)}
/>
