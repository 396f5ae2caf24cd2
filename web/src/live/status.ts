import type { StatusItem } from "../api/client";
import { feed } from "./feed.svelte";

/** What matters most comes first; the rest is in the order of the devices. */
const rank = ["link", "stream", "program-picture", "preview-picture", "talk", "mute", "record"];
const place = (i: StatusItem) => (rank.includes(i.kind) ? rank.indexOf(i.kind) : rank.length);

/** The headlines of the devices and the links that are down, the most important first. What is off is not news, but that the show is off the air is. */
export function standing(): StatusItem[] {
  return ((feed.values.get("status") ?? []) as StatusItem[])
    .filter((i) => i.kind === "link" || i.active || i.kind === "stream" || !(i.bool || i.text === "none"))
    .sort((a, b) => place(a) - place(b));
}
