import { api, type FindResult, type KitPlan } from "../../api/client";
import { sameSpot, type Spot } from "./desk.svelte";

/** A result of the search, or mapped keys, on the way to a key. */
export type Carried = { from: Spot; controls: string[] } | { result: FindResult };

export const kitBody = (r: FindResult, at: string, replace: boolean, more = false) => ({
  device: r.device,
  kit: r.id,
  params: r.params,
  at,
  replace,
  continue: more,
});

/** How far a pointer goes, in pixels, before it drags. */
const begins = 6;

/** Follows a pointer until it is let go, or Escape is pressed. */
export function follow(
  e: PointerEvent,
  on: { move: (m: PointerEvent) => void; end: (m: PointerEvent | undefined) => void },
) {
  const origin = { x: e.clientX, y: e.clientY };
  let far = false;
  const move = (m: PointerEvent) => {
    far = far || Math.hypot(m.clientX - origin.x, m.clientY - origin.y) >= begins;
    if (far) on.move(m);
  };
  const end = (m: PointerEvent) => {
    stop();
    on.end(far && m.type === "pointerup" ? m : undefined);
  };
  const escape = (k: KeyboardEvent) => {
    if (k.key !== "Escape") return;
    stop();
    on.end(undefined);
  };
  const stop = () => {
    removeEventListener("pointermove", move);
    removeEventListener("pointerup", end);
    removeEventListener("pointercancel", end);
    removeEventListener("keydown", escape);
  };
  addEventListener("pointermove", move);
  addEventListener("pointerup", end);
  addEventListener("pointercancel", end);
  addEventListener("keydown", escape);
}

/** A drag on the desk: what is carried, over which key, and where it would land. */
export class Dragging {
  carried = $state.raw<Carried | undefined>();
  pointer = $state({ x: 0, y: 0 });
  over = $state.raw<Spot | undefined>();
  kit = $state.raw<KitPlan | undefined>();
  /** The controls that what is carried would land on, as the server says. */
  landing = $state.raw<string[]>([]);
  off = $state(0);
  private turn = 0;

  constructor(
    private spotAt: (m: PointerEvent) => Spot | undefined,
    private drop: (what: Carried, at: Spot, e: PointerEvent) => void,
  ) {}

  /** Carries something along with a pointer; a pointer that does not move only taps. */
  start(what: Carried, e: PointerEvent, tap?: () => void) {
    follow(e, {
      move: (m) => {
        this.carried = what;
        this.pointer = { x: m.clientX, y: m.clientY };
        const at = this.spotAt(m);
        if (sameSpot(at, this.over)) return;
        this.over = at;
        void this.look(what, at, m.altKey);
      },
      end: (m) => {
        const at = this.over;
        this.carried = this.over = this.kit = undefined;
        this.landing = [];
        this.turn++;
        if (m && at) this.drop(what, at, m);
        else if (!m) tap?.();
      },
    });
  }

  /** Asks where it would land, so that it is seen before it is dropped. */
  private async look(what: Carried, at: Spot | undefined, replace: boolean) {
    const turn = ++this.turn;
    this.kit = undefined;
    this.off = 0;
    this.landing = at ? [at.control] : [];
    if (!at) return;
    if ("from" in what) {
      if (what.controls.length === 0) return;
      const { data } = await api.POST("/api/v1/pages/{page}/move", {
        params: { path: { page: what.from.page } },
        body: {
          from: what.from.control,
          controls: what.controls,
          to: at.control,
          page: at.page,
          swap: false,
          plan: true,
        },
      });
      if (turn !== this.turn || !data) return;
      this.landing = data.to;
      this.off = data.off.length;
    } else if (what.result.kind === "kit") {
      const { data } = await api.POST("/api/v1/pages/{page}/kits/plan", {
        params: { path: { page: at.page } },
        body: kitBody(what.result, at.control, replace),
      });
      if (turn !== this.turn || !data) return;
      this.kit = data;
      this.landing = data.cells;
    }
  }
}
