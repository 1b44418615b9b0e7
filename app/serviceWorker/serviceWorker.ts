/// <reference lib="webworker" />
import { cleanupOutdatedCaches, createHandlerBoundToURL, precacheAndRoute, type PrecacheEntry } from 'workbox-precaching';
import { NavigationRoute, registerRoute } from 'workbox-routing';

declare const self: ServiceWorkerGlobalScope;
/** Every file of the build with its hash, put in when the app is built. */
declare const __KEPT_FILES__: PrecacheEntry[];

/* Keeps the whole app in the browser: with the server gone, pages, workers and samples come from here. What the server works (batches) goes to it. */
precacheAndRoute(__KEPT_FILES__);
cleanupOutdatedCaches();
registerRoute(new NavigationRoute(createHandlerBoundToURL('/index.html'), { denylist: [/^\/(api|metrics|health)(\/|$)/, /[?&]token=/] }));

// a newer one waits until no page of the older one is open, or until it is told
self.addEventListener('message', (event) => {
  if (event.data === 'take over') void self.skipWaiting();
});
