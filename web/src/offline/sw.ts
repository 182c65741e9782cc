/// <reference lib="webworker" />
/** The service worker: the application shell is at hand without a network; what a job holds is never kept here. */
import { cleanupOutdatedCaches, type PrecacheEntry, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { NetworkFirst } from "workbox-strategies";

declare const self: ServiceWorkerGlobalScope & { __WB_MANIFEST: (string | PrecacheEntry)[] };

const PAGE = "percorso-page";
const ROOT = "/"; // one page serves every address; it reads the address itself
const SLOW_S = 3; // a network that takes longer is as good as none

precacheAndRoute(self.__WB_MANIFEST);
cleanupOutdatedCaches();
registerRoute(
  new NavigationRoute(
    new NetworkFirst({
      cacheName: PAGE,
      networkTimeoutSeconds: SLOW_S,
      plugins: [{ cacheKeyWillBeUsed: async () => ROOT }],
    }),
    { denylist: [/^\/api\//, /^\/static\//, /^\/healthz/] },
  ),
);

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(PAGE).then((cache) => cache.add(ROOT)));
  void self.skipWaiting();
});
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
