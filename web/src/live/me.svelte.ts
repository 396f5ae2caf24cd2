import { api, type Me } from "../api/client";

/** Who looks at this, and what they may do. */
class MeStore {
  now = $state.raw<Me | undefined>(undefined);

  async load() {
    const { data } = await api.GET("/api/v1/me");
    if (data) this.now = data;
  }
}

export const me = new MeStore();
