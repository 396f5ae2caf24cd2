import { api, type PeopleDoc } from "../api/client";

/** How often it is asked who is here, while somebody looks. */
const every = 2000;

/** Who may get in and who is here. Made while a component is, by an owner. */
export class People {
  doc = $state.raw<PeopleDoc | undefined>();

  constructor(wanted: () => boolean) {
    $effect(() => {
      if (!wanted()) return;
      void this.load();
      const again = setInterval(() => void this.load(), every);
      return () => clearInterval(again);
    });
  }

  load = async () => {
    const { data } = await api.GET("/api/v1/people");
    if (data) this.doc = data;
  };

  /** The name of somebody; empty: nobody knows. */
  nameOf = (id: string) => this.doc?.people.find((p) => p.id === id)?.name ?? "";
}

/** What a browser says it runs on. */
export function onWhat(agent: string): string {
  const system = /Windows|Macintosh|Android|iPhone|iPad|Linux/.exec(agent)?.[0];
  return system ? `a browser on ${system}` : "a browser";
}

/** What the roles are called, and what they mean. */
export const roles = [
  { value: "owner", text: "Owner: everything" },
  { value: "editor", text: "Editor: changes the show" },
  { value: "operator", text: "Operator: presses controllers" },
  { value: "viewer", text: "Viewer: sees, and presses nothing" },
] as const;

export const roleText = (role: string) =>
  roles
    .find((r) => r.value === role)
    ?.text.split(":")[0]
    ?.toLowerCase() ?? "";
