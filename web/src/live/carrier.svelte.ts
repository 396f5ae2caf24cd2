import type { components } from "../api/schema";

type Schemas = components["schemas"];
export type Carried = Schemas["Carried"];
export type HandsEvent = Schemas["HandsEvent"];

const code = (bytes: Uint8Array) => btoa(String.fromCharCode(...bytes));
const decode = (text: string) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));

/** The socket by which this window hands on what hardware says that it carries; it connects again for ever. */
export class Carrier {
  connected = $state(false);
  problem = $state("");
  private ws: WebSocket | undefined;
  private list: Carried[] = [];
  private again: ReturnType<typeof setTimeout> | undefined;
  private ended = false;

  constructor(private readonly told: (to: string, midi: Uint8Array) => void = () => undefined) {
    this.connect();
  }

  private connect() {
    const ws = new WebSocket(`${location.origin.replace("http", "ws")}/api/v1/hands`);
    this.ws = ws;
    ws.onopen = () => {
      this.connected = true;
      this.problem = "";
      this.say({ plug: this.list });
    };
    ws.onmessage = (e) => {
      const m = JSON.parse(e.data as string) as Schemas["HandsAnswer"];
      if (m.error) this.problem = m.error;
      if (m.to && m.midi) this.told(m.to, decode(m.midi));
    };
    ws.onclose = () => {
      this.connected = false;
      if (!this.ended) this.again = setTimeout(() => this.connect(), 500);
    };
  }

  private say(m: Schemas["HandsMessage"]) {
    if (this.ws?.readyState === WebSocket.OPEN) this.ws.send(JSON.stringify(m));
  }

  /** Says what is carried from now on. */
  plug(list: Carried[]) {
    if (JSON.stringify(list) === JSON.stringify(this.list)) return;
    this.list = list;
    this.say({ plug: list });
  }

  events(from: string, events: HandsEvent[]) {
    this.say({ from, events });
  }

  midi(from: string, bytes: Uint8Array) {
    this.say({ from, midi: code(bytes) });
  }

  /** Lets go of everything that something holds: its window has lost the focus. */
  release(from: string) {
    this.say({ from, release: true });
  }

  end() {
    this.ended = true;
    clearTimeout(this.again);
    this.ws?.close();
  }
}
