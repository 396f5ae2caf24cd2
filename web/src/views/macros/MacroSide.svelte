<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type Finding } from "../../api/client";
  import { feed } from "../../live/feed.svelte";
  import { route } from "../../live/route.svelte";
  import { notices, said } from "../../live/show.svelte";
  import { macro } from "./macro.svelte";
  import StepForm from "./StepForm.svelte";

  /** What was found in the macro, with its fixes; the selected step; and the settings. */
  let form = $state<StepForm>();
  let settings = $state(false);
  const doc = $derived(macro.doc);
  const fixes: Record<string, string> = {
    set: "Say which state",
    together: "Put them together",
    wait: "Wait that long",
  };

  export function edit() {
    form?.edit();
  }

  async function fix(f: Finding) {
    if (!doc) return;
    said(
      await api.POST("/api/v1/macros/{id}/fix", {
        params: { path: { id: doc.id } },
        body: { finding: f.id, step: f.step ?? "", other: f.other },
      }),
      "Done. Ctrl+Z takes it back.",
    );
  }

  let fields = $state<Record<string, string>>({});
  async function set(to: Partial<NonNullable<typeof doc>>) {
    if (!doc) return false;
    const { error } = await api.PUT("/api/v1/macros/{id}", {
      params: { path: { id: doc.id } },
      body: {
        rev: doc.rev,
        name: to.name ?? doc.name,
        group: to.group ?? doc.group,
        spacingMs: to.spacingMs ?? doc.spacingMs,
        again: to.again ?? doc.again,
        onError: to.onError ?? doc.onError,
        limitMs: to.limitMs ?? doc.limitMs,
        partly: to.partly ?? doc.partly,
      },
    });
    fields = fieldsOf(error);
    if (error && Object.keys(fields).length === 0) notices.add("refused", error.detail);
    return !error;
  }

  /** How long a macro has to take for its key to show how it goes on. */
  let progressFrom = $state(0);
  $effect(() => {
    void feed.values.get("show");
    if (settings)
      void api.GET("/api/v1/settings/macros").then(({ data }) => (progressFrom = data?.progressFromMs ?? 0));
  });
  async function showFrom(seconds: number) {
    said(await api.PUT("/api/v1/settings/macros", { body: { progressFromMs: Math.round((seconds || 0) * 1000) } }));
  }

  async function duplicate() {
    if (!doc) return;
    const r = await api.POST("/api/v1/macros/{id}/duplicate", { params: { path: { id: doc.id } } });
    if (said(r)) route.go(`/macros/${r.data?.id}`);
  }

  async function remove() {
    if (!doc) return;
    const at = macro.rows.findIndex((m) => m.id === doc.id);
    const name = doc.name;
    if (
      !said(
        await api.DELETE("/api/v1/macros/{id}", { params: { path: { id: doc.id } } }),
        `${name} is deleted. Ctrl+Z brings it back.`,
      )
    )
      return;
    const next = macro.rows[at + 1] ?? macro.rows[at - 1];
    route.go(next ? `/macros/${next.id}` : "/macros");
  }
</script>

<aside aria-label="Findings and settings">
  {#if doc}
    <section>
      <h3>
        {doc.findings.length === 0
          ? "Nothing found"
          : doc.findings.length === 1
            ? "1 finding"
            : `${doc.findings.length} findings`}
      </h3>
      {#if doc.findings.length === 0}
        <p class="quiet">
          {doc.steps > 0 ? "Nothing contradicts, nothing is cut short, everything can be sent." : ""}
        </p>
      {/if}
      <ul>
        {#each doc.findings as f (f.id + f.step + f.other)}
          <li class={f.severity.replaceAll(" ", "-")} data-finding={f.id}>
            <Act class="text" onclick={() => f.step && macro.select(f.step)}><b>{f.severity}</b> {f.text}</Act>
            {#if f.fix}<Act class="fix" onclick={() => fix(f)}>{fixes[f.fix] ?? "Put it right"}</Act>{/if}
          </li>
        {/each}
      </ul>
    </section>
    {#if macro.run && (macro.run.left.length > 0 || macro.run.reason)}
      <section class="last">
        <h3>Last run: {macro.run.state || "goes on"}</h3>
        {#if macro.run.reason}<p>{macro.run.reason}</p>{/if}
        <ul>
          {#each macro.run.left as l (l)}<li class="note">{l}</li>{/each}
        </ul>
      </section>
    {/if}
    {#if macro.current}
      <section>
        <h3>{macro.current.title}</h3>
        {#key macro.current.id}<StepForm bind:this={form} step={macro.current} />{/key}
      </section>
    {/if}
    <section>
      <h3>
        <Act aria-expanded={settings} onclick={() => (settings = !settings)}>Settings of the macro</Act>
      </h3>
      {#if settings}
        <div class="rows settings">
          <Text label="name" value={doc.name} error={fields.name} onchange={(name) => set({ name })} />
          <Text label="group" value={doc.group ?? ""} error={fields.group} onchange={(group) => set({ group })} />
          <Choice
            label="pressed again"
            value={doc.again || "finish"}
            choices={[
              { value: "finish", text: "let it finish" },
              { value: "restart", text: "start over" },
              { value: "stop", text: "stop it" },
              { value: "queue", text: "wait its turn" },
              { value: "both", text: "run both" },
            ]}
            onchange={(again) => set({ again })}
          />
          <Choice
            label="on an error"
            value={doc.onError || "stop"}
            choices={[
              { value: "stop", text: "stop" },
              { value: "go-on", text: "go on" },
              { value: "put-back", text: "stop and put back" },
            ]}
            onchange={(onError) => set({ onError })}
          />
          <Amount
            label="spacing"
            unit="ms"
            min={0}
            max={60000}
            value={doc.spacingMs ?? 0}
            error={fields.spacingMs}
            onchange={(ms) => set({ spacingMs: ms ?? 0 })}
          />
          <Amount
            label="limit"
            unit="s"
            min={0}
            placeholder="none"
            value={doc.limitMs ? doc.limitMs / 1000 : null}
            error={fields.limitMs}
            onchange={(s) => set({ limitMs: Math.round((s ?? 0) * 1000) })}
          />
          <Tick
            label="run what can run, where a step cannot be sent"
            checked={doc.partly ?? false}
            onchange={(partly) => set({ partly })}
          />
          <Amount
            label="keys show it from"
            unit="s"
            min={0}
            max={60}
            step={0.5}
            title="How long any macro of the show has to take for its key to show a bar"
            value={progressFrom / 1000}
            onchange={(s) => showFrom(s ?? 0)}
          />
          {#if doc.uses.length > 0}<p class="quiet">Run by {doc.uses.join(", ")}.</p>{/if}
          <p class="buttons">
            <Button kind="ghost" size="small" on:click={duplicate}>Duplicate</Button>
            <Button kind="ghost" size="small" on:click={remove}>Delete</Button>
          </p>
        </div>
      {/if}
    </section>
  {/if}
</aside>

<style>
  aside {
    border-left: 1px solid var(--line);
    overflow: auto;
    min-height: 0;
    background: var(--sheet);
  }
  section {
    padding: 0.6rem 1rem 0.8rem;
    border-bottom: 1px solid var(--raster);
    font-size: 0.8125rem;
  }
  h3 {
    font-size: 0.8125rem;
    margin-bottom: 0.4rem;
  }
  li {
    border-left: 3px solid var(--finding);
    padding: 0.1rem 0 0.1rem 0.6rem;
    margin-bottom: 0.5rem;
  }
  li.note {
    border-left-color: color-mix(in srgb, var(--finding) 50%, var(--sheet));
  }
  li > :global(.text) {
    display: block;
    padding: 0;
  }
  li b {
    color: var(--finding);
    font-weight: 600;
    margin-right: 0.2rem;
  }
  .settings {
    --beside: 6.5rem;
  }
</style>
