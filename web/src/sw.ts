/// <reference lib="webworker" />
/**
 * The pages without the server: what they are made of is kept, and what the server last said is told
 * again while it does not answer, marked with when it was said. What was typed is not kept here but in
 * the outbox (`lib/outbox.ts`).
 */
import {
  cleanupOutdatedCaches,
  createHandlerBoundToURL,
  precacheAndRoute,
} from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { NetworkFirst } from "workbox-strategies";

declare const self: ServiceWorkerGlobalScope;

/** What the server said; thrown away when somebody else comes in (`features/people/people.ts`). */
const SAID = "plumb-said";
const KEPT = "X-Plumb-Kept";
const PATIENCE_S = 4;
/** Statuses that say nothing of what was asked: no database, too many at once. */
const LATER = new Set([502, 503, 504]);
const API = /^(\/practice)?\/api\//;
/** Who is here is asked of the server alone; papers and pictures are too large to be kept unasked. */
const NOT_KEPT =
  /\/api\/(here|health|people|devices|sign-ins|journal|keeping|openapi)|\.(pdf|xlsx|html)$|\/(file|archive|photos)/;

cleanupOutdatedCaches();
precacheAndRoute(self.__WB_MANIFEST);
registerRoute(
  new NavigationRoute(createHandlerBoundToURL("/index.html"), {
    denylist: [API, /^\/trust/, /\.\w+$/],
  }),
);

registerRoute(
  ({ url, request, sameOrigin }) =>
    sameOrigin &&
    request.method === "GET" &&
    API.test(url.pathname) &&
    !NOT_KEPT.test(url.pathname),
  new NetworkFirst({
    cacheName: SAID,
    networkTimeoutSeconds: PATIENCE_S,
    plugins: [
      {
        fetchDidSucceed: ({ response }) => {
          if (LATER.has(response.status)) throw new Error(`the server answered ${response.status}`);
          return Promise.resolve(response);
        },
        cacheWillUpdate: async ({ response }) => {
          if (response.status !== 200) return null;
          const headers = new Headers(response.headers);
          headers.set(KEPT, new Date().toISOString());
          return new Response(await response.clone().blob(), { status: 200, headers });
        },
      },
    ],
  }),
);

// A newer one waits until the page says that nobody is in the middle of anything (`lib/newer.ts`).
self.addEventListener("message", (event) => {
  if ((event.data as { type?: string } | null)?.type === "SKIP_WAITING") void self.skipWaiting();
});
