// The service worker: sends what waits when no page is open, and shows a page of ours while the shop is away.

import { entries, flush } from "./queue.js";

const KEPT = "fellwind-away-1";
const AWAY = "/away/";
const STATIC = new URL("../", import.meta.url).pathname;

async function fill() {
  const store = await caches.open(KEPT);
  const page = await fetch(AWAY, { cache: "reload" });
  await store.put(AWAY, page.clone());
  const named = (await page.text()).matchAll(/(?:src|href)="([^"]+\.(?:js|css|svg))"/g);
  const files = [...named].map((found) => found[1]).concat(`${STATIC}js/queue.js`);
  await store.addAll(files.filter((file) => file.startsWith(STATIC)));
}

self.addEventListener("install", (event) => event.waitUntil(fill().then(() => self.skipWaiting())));
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

// The browser calls this when the network is back, even after the last page was closed.
self.addEventListener("sync", (event) => {
  if (event.tag !== "entries") return;
  const sent = flush().then(entries).then((rows) => { if (rows.some((row) => row.state === "waits")) throw new Error("some still wait"); });
  event.waitUntil(sent); // the browser tries again later where it fails
});

self.addEventListener("fetch", (event) => {
  const { request } = event;
  if (request.method !== "GET") return;
  const path = new URL(request.url).pathname;
  if (request.mode === "navigate") event.respondWith(fetch(request).catch(() => caches.match(AWAY)));
  else if (path.startsWith(STATIC)) event.respondWith(fetch(request).catch(() => caches.match(request, { ignoreSearch: true }).then((found) => found ?? Response.error())));
});
