<script lang="ts">
  import { onMount } from "svelte";
  import { api, fieldsOf, type Addresses, type DoorsConfig } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { said, show } from "../../live/show.svelte";
  import { clock } from "../../live/words.svelte";

  /** Where this Synaptor is reached, by whom, and how privately. A change is undone unless it is confirmed from there. */
  let { onclose }: { onclose: () => void } = $props();

  let doc = $state.raw<Addresses | undefined>();
  let errors = $state<Record<string, string>>({});
  const config = $derived(doc?.config);
  async function load() {
    const { data } = await api.GET("/api/v1/addresses");
    if (!data) return;
    if (doc?.pending && !data.pending)
      said({}, left > 0 ? "It was confirmed, and stays open." : "Nobody confirmed it: everything is as it was.");
    doc = data;
  }
  onMount(() => {
    void load();
    const again = setInterval(() => void load(), 2000);
    return () => clearInterval(again);
  });

  async function change(to: Partial<DoorsConfig>, without?: "trusted") {
    if (!config) return false;
    const body = { ...config, ...to };
    if (without) delete body[without];
    const r = await api.PUT("/api/v1/addresses", { body });
    errors = fieldsOf(r.error);
    if (r.data) doc = r.data;
    else said(r);
    return !r.error;
  }
  async function undo() {
    said(await api.DELETE("/api/v1/addresses/change"));
    doc = undefined;
    await load();
  }
  const opens = (address: string, on: boolean) =>
    change({
      addresses: on ? [...(config?.addresses ?? []), address] : (config?.addresses ?? []).filter((a) => a !== address),
    });
  const left = $derived(doc?.pending ? Math.max(0, Math.floor((Date.parse(doc.pending.until) - clock.now) / 1000)) : 0);
  const confirmAt = $derived(doc?.pending ? (doc.pending.addresses[0] ?? "") + doc.pending.path : "");
  const modes = [
    { value: "", text: "Plain HTTP" },
    { value: "own", text: "TLS, by an authority that is made here" },
    { value: "file", text: "TLS, with a certificate of your own" },
  ];
  let certificate = $state("");
  let key = $state("");
  async function give() {
    const r = await api.PUT("/api/v1/certificate", { body: { certificate, key } });
    errors = fieldsOf(r.error);
    if (r.error) return;
    said(r, "The certificate is taken.");
    key = "";
    await load();
  }
  let network = $state("");
  let trusts = $state<string[]>([]);
  const trusted = $derived(config?.trusted);
  async function trust() {
    if (await change({ trusted: { network: network.trim(), controllers: trusts } })) network = "";
  }
</script>

<SideSheet title="This Synaptor" {onclose}>
  <div class="all">
    {#if !doc}
      <p class="quiet">Looking …</p>
    {:else}
      {#if !doc.claimed}
        <p>
          Only this computer reaches Synaptor, and nobody has to sign in. Set a passphrase in People; then addresses can
          be opened for other computers.
        </p>
      {/if}
      {#if doc.pending}
        <div class="pending" role="alert" data-pending>
          <p>
            Open this on the device that is to reach Synaptor, within {left} s. Otherwise everything is as it was.
          </p>
          <img
            class="qr"
            src="/api/v1/qr.svg?text={encodeURIComponent(confirmAt)}"
            alt="What confirms it, as a QR code"
          />
          <p class="mono told">{confirmAt}</p>
          <Act onclick={undo}>Undo it now</Act>
        </div>
      {/if}
      {#each doc.rows as r (r.address)}
        <article data-address={r.address}>
          <p>
            <strong>{r.words}</strong>
            <span class="mono">{r.address}</span>{#if r.name}{" "}<span class="quiet">{r.name}</span>{/if}
          </p>
          {#if r.url}
            <p class="mono told">{r.url}</p>
            {#if r.wide}<img
                class="qr"
                src="/api/v1/qr.svg?text={encodeURIComponent(r.url)}"
                alt="{r.url} as a QR code"
              />{/if}
          {/if}
          {#if r.problem}<p class="wrong">It is not open: {r.problem}.</p>{/if}
          {#if r.wide && r.fixed}<p class="quiet">Open, by the command line</p>
          {:else if r.wide && !config?.all}
            <Act
              disabled={!doc.claimed || !!doc.pending}
              onclick={() => opens(r.address, !config?.addresses.includes(r.address))}
              >{config?.addresses.includes(r.address) ? "Close it" : "Open it for other computers"}</Act
            >
          {/if}
        </article>
      {/each}
      <p class="quiet">
        OSC is taken at <span class="mono">{show.doc?.oscIn}</span>; from other computers only with --osc, and with a
        token.
      </p>
      {#if errors["addresses"]}<p class="wrong" role="alert">{errors["addresses"]}</p>{/if}
      <Tick
        id="all-addresses"
        label="Every address of this computer, also one that comes later"
        checked={config?.all ?? false}
        disabled={!doc.claimed || !!doc.pending}
        onchange={(all) => change({ all })}
      />
      <Text
        label="Names that browsers use besides"
        value={config?.names.join(" ") ?? ""}
        help="Such as desk.example. In its own network it is {doc.name} as well."
        error={errors["names"] ?? ""}
        onchange={(text) =>
          change({
            names: text
              .toLowerCase()
              .split(/[\s,]+/)
              .filter(Boolean),
          })}
      />
      <Choice
        id="tls"
        label="Other computers come by"
        value={config?.tls ?? ""}
        choices={modes}
        disabled={!doc.claimed || !!doc.pending}
        error={errors["tls"] ?? ""}
        onchange={(to) => change({ tls: to as DoorsConfig["tls"] })}
      />
      {#if doc.withheld}<p class="quiet">{doc.withheld}</p>{/if}
      {#if doc.tls.fingerprint}
        <p class="quiet">
          {doc.tls.mode === "own" ? "The fingerprint of the authority" : "The fingerprint of the certificate"}:
          <span class="mono told">{doc.tls.fingerprint}</span>
        </p>
      {/if}
      {#if doc.tls.mode === "own"}
        <p><a href="/authority.crt" download>The authority's certificate, for other devices to know</a></p>
      {/if}
      {#each doc.tls.problems as p (p)}<p class="wrong">{p}</p>{/each}
      <details>
        <summary>{doc.tls.hasFile ? "Another certificate" : "A certificate of your own"}</summary>
        <Text
          label="Certificate, with its chain"
          lines={4}
          bind:value={certificate}
          help="PEM: it begins with -----BEGIN CERTIFICATE-----"
          error={errors["certificate"] ?? ""}
        />
        <Text label="Its key" lines={4} bind:value={key} help="PEM. It is kept where only Synaptor reads it." />
        <Act disabled={!certificate.trim() || !key.trim()} onclick={give}>Use it</Act>
      </details>
      <details>
        <summary>Trusted network</summary>
        {#if trusted}
          <p data-trust>{doc.trust}</p>
          <Act onclick={() => change({}, "trusted")}>Trust it no more</Act>
        {:else}
          <p class="quiet">
            Everybody in the network could press these controllers without being known, and nobody could tell who it
            was. They could never edit.
          </p>
          <Text label="Network" bind:value={network} placeholder="192.168.1.0/24" error={errors["network"] ?? ""} />
          {#each show.doc?.controllers ?? [] as c (c.id)}
            <Tick
              label={c.name}
              checked={trusts.includes(c.id)}
              onchange={(on) => (trusts = on ? [...trusts, c.id] : trusts.filter((o) => o !== c.id))}
            />
          {/each}
          {#if errors["controllers"]}<p class="wrong">{errors["controllers"]}</p>{/if}
          <Act id="trust" disabled={!doc.claimed || !network.trim()} onclick={trust}>Trust everybody in it</Act>
        {/if}
      </details>
    {/if}
  </div>
</SideSheet>

<style>
  .all,
  .pending,
  details[open] {
    display: grid;
    gap: 0.75rem;
    justify-items: start;
  }
  .all {
    padding: 0.5rem 1rem 1rem;
  }
  article {
    border-top: 1px solid var(--line);
    padding-top: 0.6rem;
    width: 100%;
  }
  .pending {
    outline: 2px solid var(--select);
    padding: 0.75rem;
  }
  .qr {
    width: 7rem;
    display: block;
    margin: 0.4rem 0;
  }
  .pending .qr {
    width: 10rem;
  }
  .told {
    overflow-wrap: anywhere;
    user-select: all;
  }
  details {
    width: 100%;
  }
  summary {
    cursor: pointer;
    color: var(--link);
  }
</style>
