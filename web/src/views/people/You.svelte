<script lang="ts">
  import { api, enters, fieldsOf } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { me } from "../../live/me.svelte";
  import { roleText } from "../../live/people.svelte";
  import { said } from "../../live/show.svelte";

  /** Whoever looks: the first passphrase, a new one, and the way out. */
  let name = $state("");
  let passphrase = $state("");
  let old = $state("");
  let errors = $state<Record<string, string>>({});

  async function claim(e: SubmitEvent) {
    e.preventDefault();
    const r = await enters(() => api.POST("/api/v1/claim", { body: { name, passphrase } }));
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length > 0 || !said(r, "From now on nobody gets in without signing in.")) return;
    name = passphrase = "";
    await me.load();
  }
  async function change(e: SubmitEvent) {
    e.preventDefault();
    const r = await api.PUT("/api/v1/me/passphrase", { body: { old, passphrase } });
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length === 0 && said(r, "The passphrase is changed.")) old = passphrase = "";
  }
  async function leave() {
    if (said(await api.POST("/api/v1/sign-out"))) location.href = "/sign-in";
  }
</script>

{#if me.now && !me.now.claimed}
  <p>
    Everybody who uses this computer is Synaptor's owner. Set a passphrase, and nobody gets in without signing in: you
    first, then whoever you invite. Only then can other computers be let in.
  </p>
  <form onsubmit={claim}>
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
    A passphrase that is forgotten cannot be told by anybody. Whoever may write into the data folder can move people.db
    away; then nobody has to sign in again.
  </p>
{:else if me.now?.who}
  <p><strong>{me.now.who.name}</strong>, {roleText(me.now.role)}</p>
  <Act id="sign-out" onclick={leave}>Sign out</Act>
  {#if !me.now.who.panel}
    <form onsubmit={change}>
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
  {/if}
{/if}
