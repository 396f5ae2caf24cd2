<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import FindAction, { type Offer as Found } from "../../parts/FindAction.svelte";
  import type { ActionDoc, FindResult, NewMacroStep } from "../../api/client";
  import ParamFields from "../../parts/ParamFields.svelte";
  import { begun } from "../../live/found";
  import { macro } from "./macro.svelte";

  let { onleave }: { onleave: () => void } = $props();

  /** Type what the next step should do: an action in any words, or a kind of step: wait 8, together, turns, put back … */
  interface Offer extends Found {
    step?: NewMacroStep;
  }

  const kinds: { words: string[]; offer: Offer }[] = [
    {
      words: ["wait"],
      offer: { title: "Wait 1 s", help: "A time; type the seconds, or 25f for frames.", step: { kind: "wait" } },
    },
    {
      words: ["wait for", "until"],
      offer: { title: "Wait for", help: "Until something is so, with a limit.", step: { kind: "wait-for" } },
    },
    {
      words: ["together", "at once"],
      offer: { title: "Together", help: "What is in it shows at the same moment.", step: { kind: "together" } },
    },
    {
      words: ["put back", "restore"],
      offer: { title: "Put back", help: "What the macro has changed, as it was.", step: { kind: "put-back" } },
    },
    {
      words: ["turns", "alternate"],
      offer: { title: "Turns", help: "Branches in turn, one a press.", step: { kind: "turns" } },
    },
    {
      words: ["one of", "random", "chance"],
      offer: { title: "One of", help: "One branch by chance, never the same twice running.", step: { kind: "one-of" } },
    },
    {
      words: ["if", "when"],
      offer: { title: "If", help: "The first branch whose condition holds.", step: { kind: "if" } },
    },
    {
      words: ["repeat", "times", "loop"],
      offer: { title: "Repeat", help: "What is in it, a number of times.", step: { kind: "repeat" } },
    },
    {
      words: ["branch"],
      offer: { title: "Branch", help: "One more branch, after this one.", step: { kind: "branch" } },
    },
  ];

  let words = $state("");
  let open = $state.raw<{ found: FindResult; action: ActionDoc } | undefined>();
  let chosen = $state<Record<string, string>>({});
  let input = $state<FindAction>();
  let busy = false;

  export function begin(first = "") {
    if (first) words = first;
    input?.focus();
  }

  /** The kinds of step that the words mean, with a time or a count where one is typed. */
  const structural = $derived.by(() => {
    const q = words.trim().toLowerCase();
    if (!q) return kinds.map((k) => k.offer);
    const out: Offer[] = [];
    for (const k of kinds) {
      const match = k.words.find(
        (w) => w.startsWith(q) || (q.startsWith(w) && (q.length === w.length || q[w.length] === " ")),
      );
      if (!match) continue;
      const rest = q.slice(match.length).trim();
      const n = /^(\d+(?:[.,]\d+)?)\s*(ms|s|min|f|x)?$/.exec(rest);
      if (q.length > match.length && rest && !n) {
        if (k.offer.step?.kind !== "branch") continue;
        out.push({
          ...k.offer,
          title: `Branch “${rest}”`,
          step: { kind: "branch", name: words.trim().slice(match.length).trim() },
        });
        continue;
      }
      if (n && k.offer.step?.kind === "wait") {
        const v = Number((n[1] ?? "").replace(",", "."));
        out.push(
          n[2] === "f"
            ? { ...k.offer, title: `Wait ${v} frames`, step: { kind: "wait", frames: v } }
            : {
                ...k.offer,
                title: `Wait ${rest}${n[2] ? "" : " s"}`,
                step: { kind: "wait", ms: Math.round(v * ({ ms: 1, s: 1000, min: 60_000 }[n[2] ?? "s"] ?? 1000)) },
              },
        );
      } else if (n && k.offer.step?.kind === "repeat") {
        out.push({ ...k.offer, title: `Repeat ${n[1]} times`, step: { kind: "repeat", count: Number(n[1]) } });
      } else if (!rest) out.push(k.offer);
    }
    return out;
  });
  const fading = $derived(/^fade\b/i.test(words.trim()));
  const query = (w: string) =>
    w
      .trim()
      .replace(/^fade\b/i, "")
      .trim();
  $effect(() => {
    void words;
    open = undefined;
  });

  async function take(o: Offer | undefined, outside: boolean) {
    if (!o || busy) return;
    busy = true;
    try {
      if (o.step) {
        if (await macro.add(o.step, outside)) words = "";
        return;
      }
      if (!o.found) return;
      if (o.found.missing?.length) {
        const it = await begun(o.found);
        if (!it) return;
        chosen = it.params;
        open = { found: o.found, action: it.action };
        return;
      }
      if (await put(o.found, o.found.params, outside)) words = "";
    } finally {
      busy = false;
    }
  }

  const put = (f: FindResult, params: Record<string, string>, outside: boolean) =>
    macro.add({ kind: fading ? "fade" : "do", action: { device: f.device, action: f.id, params } }, outside);
</script>

<div class="add">
  <FindAction
    bind:this={input}
    bind:words
    id="add-step"
    label="Add a step"
    placeholder="Add a step (A): cut, imke mute, wait 8, together, fade music -12, put back …"
    more={structural}
    gesture={fading ? "turn" : "press"}
    {query}
    named={(f) => (fading ? `Fade: ${f.title}` : f.title)}
    above
    ontake={take}
    {onleave}
  />
  {#if open}
    {@const o = open}
    <form
      class="rows params"
      onsubmit={async (e) => {
        e.preventDefault();
        if (await put(o.found, { ...o.found.params, ...chosen }, false)) {
          open = undefined;
          words = "";
          input?.focus();
        }
      }}
    >
      <ParamFields pressed device={o.found.device} action={o.action} bind:values={chosen} />
      <Act submit disabled={o.action.params.some((p) => !chosen[p.id])}>Add {o.found.title}</Act>
    </form>
  {/if}
</div>

<style>
  .add {
    padding: 0.4rem 1rem 0.6rem;
    border-top: 1px solid var(--line);
  }
  .params {
    display: grid;
    gap: 0.4rem;
    padding: 0.5rem 0;
    font-size: 0.8125rem;
    max-width: 26rem;
  }
</style>
