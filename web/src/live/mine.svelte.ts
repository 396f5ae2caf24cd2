import { api } from "../api/client";
import { feed } from "./feed.svelte";

/** What whoever looks may not use, so that it looks so before it is pressed. */
class Mine {
  private refused = $state.raw<Record<string, string>>({});
  private withheld = $state.raw<string[]>([]);

  /** Follows it for as long as a component lives. */
  follow() {
    // What one may use changes with the show, with what others claim, and with one's rights, which end the connection.
    $effect(() => {
      void [feed.epoch, feed.values.get("show"), feed.values.get("claims")];
      void this.load();
    });
  }

  private async load() {
    const { data } = await api.GET("/api/v1/me/keys");
    if (data) [this.refused, this.withheld] = [data.refused, data.withheld];
  }

  /** Why a mapping on a controller may not be used; empty: it may. */
  whyNot(controller: string, mapping: string | undefined): string {
    if (!mapping) return "";
    return this.withheld.includes(controller) ? "This controller is not given to you." : (this.refused[mapping] ?? "");
  }

  /** Whether a controller may be pressed. */
  has = (controller: string) => !this.withheld.includes(controller);
}

export const mine = new Mine();
