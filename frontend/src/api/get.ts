declare global {
  interface Window {
    /** Answers to requests of public/early.js, by address; each is used once. */
    early?: Map<string, Promise<Response | undefined>>;
  }
}

/** Requests an address, or takes the answer to its early request. */
export async function get(address: string, init?: RequestInit | Request): Promise<Response> {
  const early = window.early?.get(address);
  window.early?.delete(address);
  return (await early) ?? (await (init instanceof Request ? fetch(init) : fetch(address, init)));
}
