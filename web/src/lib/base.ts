/** Where these pages live: in the shop, or in the world of practice beside it, which has a store of its own. */
export const PRACTISING =
  typeof window !== "undefined" && /^\/practice(\/|$)/.test(window.location.pathname);
/** What every address of this world begins with. */
export const BASE = PRACTISING ? "/practice" : "";
