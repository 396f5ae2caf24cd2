import { api, type FindResult, type Problem } from "../../api/client";
import { route } from "../../live/route.svelte";
import { said, show } from "../../live/show.svelte";
import type { Spot } from "./desk.svelte";
import { kitBody } from "./drag.svelte";

/** How mappings go elsewhere. */
export interface How {
  swap?: boolean;
  copy?: boolean;
  linked?: boolean;
}

/** Moves or copies mappings; gives the controls they are on then. */
export async function move(from: Spot, controls: string[], to: Spot, how: How): Promise<string[]> {
  const r = await api.POST("/api/v1/pages/{page}/move", {
    params: { path: { page: from.page } },
    body: { from: from.control, controls, to: to.control, page: to.page, swap: false, ...how },
  });
  const left = r.data?.left ?? [];
  const off = r.data?.off ?? [];
  const words = [
    left.length > 0 ? `The gesture ${left.join(", ")} cannot be made there and was left out.` : "",
    off.length > 0 ? `${off.join(", ")} found no place there.` : "",
  ];
  said(r, words.filter(Boolean).join(" "));
  return r.data?.to ?? [];
}

/**
 * Puts what was found on a key; gives the free key that comes next, or undefined when it did not work.
 * A gesture that was picked gets it, else what suits the control. A kit may go on on new pages.
 */
export async function put(
  r: FindResult,
  at: Spot,
  how: { gesture?: string; replace?: boolean; more?: boolean },
): Promise<string | undefined> {
  if (r.kind === "kit") {
    const { data, error } = await api.POST("/api/v1/pages/{page}/kits", {
      params: { path: { page: at.page } },
      body: kitBody(r, at.control, how.replace ?? false, how.more),
    });
    const pages = data?.pages ?? [];
    const more =
      pages.length > 0 ? ` It goes on on ${pages.join(", ")}.` : data?.left ? ` ${data.left} did not fit.` : "";
    said({ error }, data ? `${data.title}: ${data.cells.length} keys from ${data.cells[0]}.${more}` : "");
    return data?.next || undefined;
  }
  const { data, error } = await api.PUT("/api/v1/pages/{page}/controls/{control}", {
    params: { path: { page: at.page, control: at.control } },
    body: { device: r.device, action: r.id, params: r.params, gesture: how.gesture },
  });
  said({ error });
  return how.gesture && how.gesture !== "press" ? at.control : data?.next;
}

/** Takes the mappings off controls. */
export async function clear(at: Spot, controls: string[]) {
  const mapped = controls.filter((c) => show.mappingAt(at.page, c));
  if (mapped.length === 0) return;
  said(
    await api.POST("/api/v1/pages/{page}/clear", {
      params: { path: { page: at.page } },
      body: { controls: mapped },
    }),
    `${mapped.length === 1 ? `${mapped[0]} is` : `${mapped.length} keys are`} clear. Ctrl+Z brings ${mapped.length === 1 ? "it" : "them"} back.`,
  );
}

/** Makes a macro of what keys do on a press: of several a together. The first runs it then. */
export async function makeMacro(page: string, controls: string[]) {
  const r = await api.POST("/api/v1/pages/{page}/macro", {
    params: { path: { page } },
    body: { controls, name: "" },
  });
  if (said(r, `${controls[0]} runs a macro now.`) && r.data) route.go(`/macros/${r.data.id}`);
}

/** Gives the look of a control to others. */
export async function copyFace(at: Spot, to: string[]) {
  const r = await api.POST("/api/v1/pages/{page}/faces", {
    params: { path: { page: at.page } },
    body: { from: at.control, to },
  });
  said(r, r.data ? `${r.data.count} keys look like ${at.control}.` : "");
}

/** Writes a note on a control that is planned. */
export async function note(at: Spot, text: string) {
  said(
    await api.PUT("/api/v1/pages/{page}/notes", {
      params: { path: { page: at.page } },
      body: { notes: { [at.control]: text } },
    }),
  );
}

/** Uploads a picture; gives its id, or says why not. */
export async function upload(file: File): Promise<string | undefined> {
  const r = await api.POST("/api/v1/media", {
    params: { query: { name: file.name.replace(/\.[a-z]+$/i, "") } },
    body: file as unknown as string,
    bodySerializer: (b) => b,
    headers: { "Content-Type": "application/octet-stream" },
  });
  return said(r) ? r.data?.id : undefined;
}

/** Puts a picture that was dropped or pasted on the face of a control. */
export async function dropPicture(at: Spot, files: Iterable<File>) {
  const mapping = show.mappingAt(at.page, at.control);
  const file = [...files][0];
  if (!file) return;
  if (!mapping) {
    said({ error: { detail: `${at.control} has nothing to do yet, so it has no face.` } as Problem });
    return;
  }
  const picture = await upload(file);
  if (!picture) return;
  said(
    await api.PUT("/api/v1/mappings/{id}", {
      params: { path: { id: mapping.id } },
      body: { rev: mapping.rev, name: mapping.name ?? "", face: { ...mapping.face, picture } },
    }),
    `${at.control} shows ${file.name}.`,
  );
}
