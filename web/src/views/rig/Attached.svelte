<script lang="ts">
  import { api, type Binding, type Controller } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { feed } from "../../live/feed.svelte";
  import { hardware, kindWords, type Link } from "../../live/hardware.svelte";
  import { said } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";
  import WireMap from "./WireMap.svelte";

  /** One link of a controller: what it is attached to, its state, and what comes in and where it goes. */
  let { controller, link }: { controller: Controller; link: Link } = $props();

  const h = $derived(hardware.of(link.id));
  const touches = $derived(h ? hardware.touches(h.id) : []);
  /** What people type is told only to who asks for it. */
  let looked = $state(false);
  const topics = $derived(h ? [`touches:${h.id}`, ...(looked ? [`typed:${h.id}`] : [])].join("\n") : "");
  $effect(() => {
    const all = topics;
    if (!all) return;
    const name = `touches of ${link.id}`;
    feed.follow(name, all.split("\n"));
    return () => feed.follow(name, []);
  });

  const body = (l: Link) => ({
    rev: l.rev,
    controller: l.controller,
    kind: l.kind,
    name: l.name,
    match: l.match,
    place: l.place ?? "",
    map: l.map ?? {},
    bindings: l.bindings ?? [],
    take: l.take ?? false,
    off: l.off ?? false,
  });
  async function change(to: Partial<ReturnType<typeof body>>) {
    const params = { path: { id: link.id } };
    return said(await api.PUT("/api/v1/links/{id}", { params, body: { ...body(link), ...to } }));
  }
  async function detach() {
    const params = { path: { id: link.id } };
    said(await api.DELETE("/api/v1/links/{id}", { params }), "Detached. Ctrl+Z takes it back.");
  }
  const bind = (b: Binding, to: Partial<Binding>) =>
    change({ bindings: link.bound.map((o) => (o.source === b.source ? { ...o, ...to } : o)) });
  const unbind = (b: Binding) => change({ bindings: link.bound.filter((o) => o.source !== b.source) });

  const at = $derived({ params: { path: { id: h?.id ?? "" } } });
  const take = async () => said(await api.POST("/api/v1/hardware/{id}/take", at));
  const keep = async () => said(await api.PUT("/api/v1/hardware/{id}/take", at), "Only Synaptor gets it from now on.");
  const passOn = async () => said(await api.DELETE("/api/v1/hardware/{id}/take", at));
  const left = $derived(h?.takenUntil ? Math.max(0, Math.ceil((Date.parse(h.takenUntil) - clock.now) / 1000)) : 0);

  const edge = (t: { edge: string; amount?: number }) =>
    t.amount ? `${t.edge} ${Math.round(t.amount * 1000) / 1000}` : t.edge;
  /** What a binding is, beside its source and its control. */
  const how = (b: Binding) =>
    [
      b.as,
      {
        twos: "two's complement",
        offset: "around 64",
        sign: "with a sign",
        absolute: "with ends",
        pair: "in two halves",
        "": "",
      }[b.encoding ?? ""],
      b.dead ? `dead at its ends for ${Math.round(b.dead * 100)} %` : "",
      b.low || b.high ? `from ${b.low ?? 0} to ${b.high ?? 0}` : "",
    ]
      .filter(Boolean)
      .join(", ");
  const sends = $derived(link.kind === "midi-host" || link.kind === "midi-here");
  const lit = { "on-air": 5, preview: 21, armed: 9, any: 3, off: 0 };
</script>

<article data-link={link.match || link.kind}>
  <header>
    <strong>{link.name || h?.name || link.match || "Keys of the browser"}</strong>
    <span class="phase {h?.here && !link.off ? 'up' : link.kind === 'keys-here' ? '' : 'down'}"
      >{link.off ? "switched off" : h?.here ? "here" : link.kind === "keys-here" ? "no window shows it" : "away"}</span
    >
    {#if h}<span class="quiet">{ago(h.since, clock.now)}</span>{/if}
    <Act onclick={detach}>Detach</Act>
  </header>
  <p class="quiet">
    {[
      link.name || link.kind === "wire" ? link.match : "",
      link.kind === "wire" && h ? `by ${h.via}` : kindWords[link.kind],
      link.place ?? "",
      h?.battery != null ? `battery ${Math.round(h.battery * 100)} %` : "",
      h?.dimmed ? "dimmed" : "",
    ]
      .filter(Boolean)
      .join(", ")}
  </p>
  {#if h?.problem}<p class="wrong">{h.problem}</p>{/if}
  {#each link.findings.filter((f) => f.id !== "link-off") as f (f.sentence)}<p class="wrong" data-finding={f.id}>
      {f.sentence}
    </p>{/each}
  <Tick label="It is used" checked={!link.off} onchange={(on) => change({ off: !on })} />
  {#if h?.canTake && h.here}
    <div class="take" data-take>
      {#if h.takenUntil}
        <strong role="status">Only Synaptor gets it. Does all still work? It is passed on again in {left} s.</strong>
        <Act id="keep-taken" onclick={keep}>All is well, keep it</Act>
        <Act onclick={passOn}>Pass it on</Act>
      {:else if h.taken}
        <span>Only Synaptor gets what comes from it.</span> <Act id="pass-on" onclick={passOn}>Pass it on</Act>
      {:else}
        <span>Other programs get what comes from it, too.</span> <Act id="take" onclick={take}>Take it</Act>
      {/if}
    </div>
  {/if}
  <div class="inputs" aria-label="What comes in" role="log">
    {#each touches.slice(0, 6) as t, i (i)}
      <p>
        <span class="mono">{t.control} {edge(t)}</span>
        {t.to ? `→ ${t.to}` : ""}
        {t.why ?? ""}
        <span class="quiet">{ago(t.at, clock.now)}</span>
      </p>
    {:else}<p class="quiet">
        {h?.here
          ? "Touch it now: what comes in is seen here, and its control flashes."
          : "Once it is here, what comes in is seen here."}
      </p>{/each}
  </div>
  {#if h?.private}
    <Tick label="Show keys that are bound to nothing, too" bind:checked={looked} />
  {/if}
  {#if link.kind === "wire"}
    <WireMap {controller} {link} last={touches[0]?.control ?? ""} onmap={(map) => change({ map })} />
  {:else}
    <details>
      <summary>
        {link.bound.length} of its keys, dials and axes are bound{link.bindings?.length
          ? ""
          : ", as the sheet of the layout says"}
      </summary>
      <table>
        <tbody>
          {#each link.bound as b (b.source)}
            <tr data-binding={b.source}>
              <td class="mono">{b.source}</td>
              <td>{b.control || "nothing"}</td>
              <td class="quiet">{how(b)}</td>
              <td>
                {#if sends && b.as === "key"}
                  <Tick
                    label="Lamp"
                    title="Lights as its key on the controller does"
                    checked={!!b.lamps}
                    onchange={(on) => {
                      const { lamps: _, ...rest } = b;
                      void change({
                        bindings: link.bound.map((o) =>
                          o.source === b.source ? (on ? { ...rest, lamps: lit } : rest) : o,
                        ),
                      });
                    }}
                  />
                {:else if !sends && b.as === "slider"}
                  <Amount
                    label="Dead at its ends"
                    unit="%"
                    hideLabel
                    min={0}
                    max={40}
                    value={Math.round((b.dead ?? 0) * 100)}
                    onchange={(n) => bind(b, { dead: (n ?? 0) / 100 })}
                  />
                {:else if sends}
                  <Tick
                    label="Follows"
                    title="Its level goes back to it: a motor, a ring of lamps"
                    checked={b.level ?? false}
                    onchange={(on) => bind(b, { level: on })}
                  />
                {/if}
              </td>
              <td><Act quiet aria-label="Unbind {b.source}" onclick={() => unbind(b)}>Unbind</Act></td>
            </tr>
          {/each}
        </tbody>
      </table>
    </details>
  {/if}
</article>

<style>
  article {
    display: grid;
    gap: 0.4rem;
    width: 100%;
    border-top: 1px solid var(--edge);
    padding-top: 0.5rem;
  }
  header,
  .take {
    display: flex;
    gap: 0.6rem;
    align-items: center;
    flex-wrap: wrap;
  }
  .inputs {
    font-size: 0.8125rem;
    min-height: 3.6rem;
  }
  table {
    width: 100%;
    font-size: 0.8125rem;
  }
  td {
    padding: 0.1rem 0.3rem 0.1rem 0;
    vertical-align: middle;
  }
</style>
