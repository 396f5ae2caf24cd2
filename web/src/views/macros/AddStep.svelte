<script lang="ts">
  import Text from "../../parts/form/Text.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { api, type ActionDoc, type FindResult, type NewMacroStep } from "../../api/client";
  import Glyph from "../../parts/Glyph.svelte";
  import ParamFields from "../../parts/ParamFields.svelte";
  import { macro } from "./macro.svelte";

  let { onleave }: { onleave: () => void } = $props();

  /** Type what the next step should do: an action in any words, or a kind of step: wait 8, together, turns, put back … */
  interface Offer {
    title: string;
    help: string;
    step?: NewMacroStep;
    found?: FindResult;
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
  let found = $state.raw<FindResult[]>([]);
  let active = $state(0);
  let open = $state.raw<{ found: FindResult; action: ActionDoc } | undefined>();
  let chosen = $state<Record<string, string>>({});
  let input = $state<Text>();
  let asked = 0;
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
  const offers = $derived<Offer[]>(
    words.trim()
      ? [...structural, ...found.map((f) => ({ title: fading ? `Fade: ${f.title}` : f.title, help: f.help, found: f }))]
      : [],
  );

  $effect(() => {
    const q = words
      .trim()
      .replace(/^fade\b/i, "")
      .trim();
    const turn = ++asked;
    if (!q) {
      found = [];
      return;
    }
    const wait = setTimeout(async () => {
      const { data } = await api.GET("/api/v1/find", {
        params: { query: { q, gesture: fading ? "turn" : "press", page: "" } },
      });
      if (turn !== asked) return;
      found = (data ?? []).filter((r) => r.kind === "action" && !r.unusable).slice(0, 12);
      active = 0;
      open = undefined;
    }, 60);
    return () => clearTimeout(wait);
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
        const { data } = await api.GET("/api/v1/devices/{id}/actions/{action}", {
          params: { path: { id: o.found.device, action: o.found.id } },
        });
        if (!data) return;
        chosen = { ...Object.fromEntries(data.params.map((p) => [p.id, p.value])), ...o.found.params };
        open = { found: o.found, action: data };
        return;
      }
      if (await put(o.found, o.found.params, outside)) words = "";
    } finally {
      busy = false;
    }
  }

  const put = (f: FindResult, params: Record<string, string>, outside: boolean) =>
    macro.add({ kind: fading ? "fade" : "do", action: { device: f.device, action: f.id, params } }, outside);

  function onkeydown(e: KeyboardEvent) {
    if (e.key === "ArrowDown" && offers.length > 0) active = Math.min(active + 1, offers.length - 1);
    else if (e.key === "ArrowUp" && offers.length > 0) active = Math.max(active - 1, 0);
    else if (e.key === "Enter") void take(offers[active], e.shiftKey);
    else if (e.key === "Escape" && words) words = "";
    else if (e.key === "Escape") onleave();
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<div class="add">
  <span>
    <Text
      bind:this={input}
      bind:value={words}
      id="add-step"
      role="combobox"
      aria-expanded={offers.length > 0}
      aria-controls="step-offers"
      autocomplete="off"
      hideLabel
      label="Add a step"
      placeholder="Add a step (A): cut, imke mute, wait 8, together, fade music -12, put back …"
      {onkeydown}
    />
  </span>
  {#if offers.length > 0}
    <ul id="step-offers" role="listbox" aria-label="Steps">
      {#each offers as o, i (i)}
        <li role="presentation">
          <!-- A row of the list that the field above goes through. -->
          <button
            class:active={i === active}
            role="option"
            aria-selected={i === active}
            tabindex="-1"
            onclick={(e) => take(o, e.shiftKey)}
          >
            <Glyph name={o.found?.glyph ?? "macro"} size={16} />
            <span class="title">{o.title}</span>
            <span class="sub">{o.found ? o.found.deviceName : o.help}</span>
          </button>
        </li>
      {/each}
    </ul>
  {/if}
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
      <ParamFields device={o.found.device} action={o.action} bind:values={chosen} />
      <Act submit disabled={o.action.params.some((p) => !chosen[p.id])}>Add {o.found.title}</Act>
    </form>
  {/if}
</div>

<style>
  .add {
    position: relative;
    padding: 0.4rem 1rem 0.6rem;
    border-top: 1px solid var(--line);
  }
  ul {
    position: absolute;
    left: 1rem;
    right: 1rem;
    bottom: 100%;
    max-height: 300px;
    overflow: auto;
    background: var(--menu);
    border: 1px solid var(--line);
    box-shadow: 0 -8px 30px #000a;
    z-index: 10;
  }
  li button {
    display: grid;
    grid-template-columns: 26px 1fr auto;
    gap: 0.2rem;
    align-items: center;
    width: 100%;
    text-align: left;
    background: none;
    border: 0;
    color: inherit;
    font: inherit;
    font-size: 0.875rem;
    padding: 0.35rem 0.7rem;
    cursor: pointer;
  }
  li button:hover,
  li .active {
    background: var(--hover);
  }
  li .active {
    box-shadow: inset 3px 0 var(--select);
  }
  .sub {
    font-size: 0.75rem;
    color: var(--quiet);
  }
  .params {
    display: grid;
    gap: 0.4rem;
    padding: 0.5rem 0;
    font-size: 0.8125rem;
    max-width: 26rem;
  }
</style>
