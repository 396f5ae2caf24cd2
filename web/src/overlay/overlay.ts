import "./overlay.css";
import type { components } from "../api/schema";

/**
 * What the audience reads on the picture. Synaptor works it out and tells it as events; this only draws it. Everything that somebody wrote is put
 * in as text, whatever it looks like.
 */
type Page = components["schemas"]["OverlayPage"];
type Element = Page["elements"][number];

const stage = document.querySelector("main")!;
const at = location.pathname.replace(/\/$/, "");
const nodes = new Map<string, Shown>();
/** How long what is shown stays while Synaptor cannot be heard. */
const patience = 10_000;
let first = true;
let lost = 0;

interface Shown {
  box: HTMLElement;
  who: HTMLElement | undefined;
  face: HTMLImageElement | undefined;
  text: HTMLElement;
  second: HTMLElement;
  picture: HTMLImageElement | undefined;
  kind: string;
  emptied: number;
}

function part(box: HTMLElement, name: string): HTMLElement {
  const e = document.createElement("div");
  e.className = name;
  e.dir = "auto";
  box.append(e);
  return e;
}

/** An image that is not shown as broken where its picture is gone. */
function image(box: HTMLElement): HTMLImageElement {
  const img = document.createElement("img");
  img.alt = "";
  img.hidden = true;
  img.onload = () => (img.hidden = false);
  img.onerror = () => (img.hidden = true);
  box.append(img);
  return img;
}

/** Gives an image the address of its picture; empty: none. */
function source(img: HTMLImageElement | undefined, src: string) {
  if (!img || (img.getAttribute("src") ?? "") === src) return;
  img.hidden = true; // until it is there
  if (src) img.src = src;
  else img.removeAttribute("src");
}

function make(e: Element): Shown {
  const box = document.createElement("section");
  const who = e.kind === "comment" ? part(box, "who") : undefined;
  const face = who && image(part(box, "face"));
  const picture = e.kind === "picture" ? image(box) : undefined;
  return { box, who, face, picture, text: part(box, "text"), second: part(box, "second"), kind: e.kind, emptied: 0 };
}

function draw(e: Element, n: Shown) {
  const was = n.box.classList.contains("on");
  n.box.className = ["overlay", e.kind, e.look, e.align, was ? "on" : ""].join(" ").trim();
  n.box.dataset["overlay"] = e.id;
  const s = n.box.style;
  for (const [name, value] of Object.entries({ x: e.x, y: e.y, width: e.width, size: e.size }))
    s.setProperty(`--${name}`, String(value));
  s.setProperty("--fade", first ? "0s" : `${e.fadeMs}ms`);
  clearTimeout(n.emptied);
  if (!e.shown) {
    n.box.classList.remove("on");
    // What is hidden keeps its words until it is gone.
    n.emptied = window.setTimeout(
      () => fill(n, { ...e, text: "", second: "", picture: "", portrait: "" }),
      was ? e.fadeMs : 0,
    );
    return;
  }
  fill(n, e);
  if (!was && !first) void n.box.offsetWidth; // the fade begins from nothing
  n.box.classList.add("on");
}

function fill(n: Shown, e: Element) {
  const { text = "", second = "" } = e;
  if (n.text.textContent !== text) n.text.textContent = text;
  if (n.second.textContent !== second) n.second.textContent = second;
  if (n.who) n.who.textContent = e.initial ?? "";
  source(n.face, e.portrait ? `${at}/portrait/${e.id}/${e.portrait}` : "");
  source(n.picture, e.picture ? `${at}/picture/${e.picture}` : "");
}

function show(page: Page) {
  const there = new Set(page.elements.map((e) => e.id));
  for (const [id, n] of nodes) {
    if (there.has(id)) continue;
    n.box.remove();
    nodes.delete(id);
  }
  for (const e of page.elements) {
    let n = nodes.get(e.id);
    if (n && n.kind !== e.kind) {
      n.box.remove();
      n = undefined;
    }
    n ??= make(e);
    nodes.set(e.id, n);
    draw(e, n);
    stage.append(n.box); // in their order: what is later lies above
  }
  first = false;
}

function listen() {
  const events = new EventSource(`${at}/events`);
  events.onmessage = (m) => {
    clearTimeout(lost);
    lost = 0;
    show(JSON.parse(m.data as string) as Page);
  };
  events.onerror = () => {
    lost ||= window.setTimeout(() => show({ elements: [] }), patience);
    if (events.readyState !== EventSource.CLOSED) return; // it tries again by itself
    show({ elements: [] }); // the address was taken back
    setTimeout(listen, 2000);
  };
}
listen();
