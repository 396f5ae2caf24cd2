/** Real paths, so that a view can be linked to and reloaded. */
class Route {
  path = $state(location.pathname);

  constructor() {
    addEventListener("popstate", () => (this.path = location.pathname));
  }

  go(path: string) {
    if (path === this.path) return;
    history.pushState(null, "", path);
    this.path = path;
  }

  /** Takes the place of the path in force, for one that has led where it leads. */
  settle(path: string) {
    history.replaceState(null, "", path);
    this.path = path;
  }
}

export const route = new Route();

/** The views in the order of work; the numbers are their keys and stay when views are added. */
export const views = [
  { key: "1", path: "/rig", title: "Rig" },
  { key: "2", path: "/patch", title: "Patch" },
  { key: "3", path: "/macros", title: "Macros" },
  { key: "4", path: "/reflexes", title: "Reflexes" },
  { key: "5", path: "/preflight", title: "Preflight" },
  { key: "6", path: "/desk", title: "Desk" },
  { key: "7", path: "/journal", title: "Journal" },
] as const;
