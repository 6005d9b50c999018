/** Who is at this screen: asked of the server, remembered while it does not answer. */
import { queryOptions, useQuery } from "@tanstack/react-query";
import { got, shopApi, type Here } from "../api/client";

const KEY = "plumb.here";
const NOW_AND_THEN_MS = 60_000;

function remembered(): Here | undefined {
  try {
    return (JSON.parse(localStorage.getItem(KEY) ?? "null") as Here | null) ?? undefined;
  } catch {
    return undefined;
  }
}

let current = remembered();

/** Who is here, for code outside the screens; undefined until the server was asked once. */
export function hereNow(): Here | undefined {
  return current;
}

/** Keep what the server said; where nobody signs in there is nothing to remember. */
export function keepHere(here: Here): Here {
  current = here;
  if (here.network) localStorage.setItem(KEY, JSON.stringify(here));
  else localStorage.removeItem(KEY);
  return here;
}

export const hereQuery = queryOptions({
  queryKey: ["here"],
  queryFn: async () => keepHere(await got(shopApi.GET("/api/here"))),
  // Without the server the page goes on for whoever was here last.
  initialData: remembered,
  initialDataUpdatedAt: 0,
  staleTime: NOW_AND_THEN_MS,
  refetchInterval: NOW_AND_THEN_MS,
});

/** Who is at this screen; undefined until it is known. */
export function useHere(): Here | undefined {
  return useQuery(hereQuery).data;
}
