/** The present time, once a second, for everything that says "since". */
class Clock {
  now = $state(Date.now());

  constructor() {
    setInterval(() => (this.now = Date.now()), 1000);
  }
}

export const clock = new Clock();

/** How long ago a time was, as hours, minutes and seconds. */
export function ago(time: string, now: number): string {
  const s = Math.max(0, Math.round((now - Date.parse(time)) / 1000));
  const two = (n: number) => String(n).padStart(2, "0");
  if (s >= 86_400) return s < 172_800 ? "1 day" : `${Math.floor(s / 86_400)} days`;
  return s < 3600
    ? `${Math.floor(s / 60)}:${two(s % 60)}`
    : `${Math.floor(s / 3600)}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`;
}

/** A moment as the clock shows it in a time zone, by its IANA name, or where this browser is; fine adds the milliseconds. */
export function timeOfDay(at: string, fine = false, zone = ""): string {
  const d = new Date(at);
  return `${d.toLocaleTimeString("en-GB", zone ? { timeZone: zone } : {})}${fine ? `.${String(d.getMilliseconds()).padStart(3, "0")}` : ""}`;
}

/** Microseconds as milliseconds with a sensible number of digits. */
export function ms(us: number): string {
  const v = us / 1000;
  return `${v < 10 ? v.toFixed(2) : v < 100 ? v.toFixed(1) : v.toFixed(0)} ms`;
}

/** What the phases of a link are called. */
export const phases = {
  up: "connected",
  syncing: "being read",
  connecting: "connecting",
  down: "away",
  locked: "not let in",
  parked: "parked",
} as const;

/** A number of bytes as a person says it. */
export function size(bytes: number): string {
  if (bytes < 1_000_000) return `${Math.max(1, Math.round(bytes / 1000))} kB`;
  return bytes < 1_000_000_000 ? `${(bytes / 1_000_000).toFixed(1)} MB` : `${(bytes / 1_000_000_000).toFixed(1)} GB`;
}

/** What sorts of things of a show are called. */
export const kindWords: Record<string, string> = {
  settings: "The show's settings,",
  device: "Device",
  controller: "Controller",
  profile: "Profile",
  page: "Page",
  mapping: "Key",
  macro: "Macro",
  step: "Step",
  reflex: "Reflex",
  timer: "Timer",
  link: "Hardware",
  safe: "Safe picture",
  accepted: "Finding",
};
