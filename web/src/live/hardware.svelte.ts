import type { Controller, Hardware, Touch } from "../api/client";
import { feed } from "./feed.svelte";

export type Link = Controller["links"][number];

/** What is here to be touched, as the live feed tells it while its topic is followed. */
class HardwareStore {
  readonly rows = $derived([...feed.of("hardware").values()].map((value) => value as Hardware));

  /** What is attached by a link; several, where several browsers show a controller that takes their keys. */
  of(link: string): Hardware | undefined {
    return this.rows.find((h) => h.link === link && h.here) ?? this.rows.find((h) => h.link === link);
  }

  /** What came in from a piece of hardware, newest first. */
  touches(id: string): Touch[] {
    return ((feed.values.get(`touches/${id}`) as Touch[] | undefined) ?? []).toReversed();
  }
}

export const hardware = new HardwareStore();

/** What a kind of link is, in words. */
export const kindWords: Record<Hardware["kind"], string> = {
  wire: "by a bridge",
  "keys-here": "keys of the browser that shows it",
  "midi-here": "MIDI, carried by a browser",
  gamepad: "a game control, carried by a browser",
  "keys-host": "keys or pedals of this computer",
  "midi-host": "MIDI of this computer",
};
