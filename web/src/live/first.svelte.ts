import type { Entry } from "../api/client";
import { feed } from "./feed.svelte";
import { show } from "./show.svelte";

/** The first steps of a show of one's own: a device that answers, a controller, a key that was pressed and confirmed. */
class FirstSteps {
  /** The show that somebody begins with. */
  private begun = $state(localStorage.getItem("first-steps") ?? "");
  private pressed = $state("");

  readonly shown = $derived(this.begun !== "" && this.begun === show.doc?.id);
  readonly steps = $derived([
    {
      text: "A device that answers",
      path: "/rig",
      done: (show.doc?.devices ?? []).some((d) => show.link(d.id)?.phase === "up"),
    },
    { text: "A controller", path: "/patch", done: (show.doc?.controllers ?? []).length > 0 },
    { text: "A key, pressed and confirmed", path: "/patch", done: this.pressed === this.begun },
  ]);

  begin() {
    this.keep(show.doc?.id ?? "");
  }

  end() {
    this.keep("");
  }

  private keep(id: string) {
    this.begun = id;
    this.pressed = "";
    localStorage.setItem("first-steps", id);
  }

  /** Hears of what is pressed while the steps are shown; made while a component is. */
  listen() {
    $effect(() => {
      if (!this.shown) return;
      feed.follow("first", ["journal"]);
      return () => feed.follow("first", []);
    });
    $effect(() => {
      if (!this.shown) return;
      return feed.hear((e) => {
        if (e.control && e.outcome === "confirmed") this.pressed = this.begun;
      });
    });
  }
}

export const first = new FirstSteps();
