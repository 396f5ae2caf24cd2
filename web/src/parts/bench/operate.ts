import { api, type FrontPanel } from "../../api/client";
import { said } from "../../live/show.svelte";

/** A hand on the front panel of a stand-in: an address and what is done to it. */
export function hand(standin: string) {
  return async (address: string, value?: unknown) => {
    said(
      await api.POST("/api/v1/bench/{standin}/operate", { params: { path: { standin } }, body: { address, value } }),
    );
  };
}

/** The numbers that a pattern with one group finds in the addresses of a front panel, in order. */
export function ids(view: FrontPanel, pattern: RegExp): string[] {
  return [...new Set(Object.keys(view.values).flatMap((a) => pattern.exec(a)?.[1] ?? []))].sort(
    (a, b) => Number(a) - Number(b),
  );
}
