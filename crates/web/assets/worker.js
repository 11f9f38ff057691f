// Keeps what is needed where there is no network: styles, scripts and fonts, the page under way as it was last, and the card for
// the pocket. Whatever the server answers is always shown in its place; whoever was shut out keeps nothing.
"use strict";

const KEPT = "lake-hour-1";
const isKept = (url) => url.pathname.startsWith("/assets/") || /^\/rigs\/\d+\/(live|build\/card)$/.test(url.pathname);

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil((async () => {
  for (const name of await caches.keys()) if (name !== KEPT) await caches.delete(name);
  await self.clients.claim();
})()));
self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin || !isKept(url)) return;
  event.respondWith((async () => {
    try {
      const answer = await fetch(request);
      if (answer.status === 404 && request.mode === "navigate") await caches.delete(KEPT);
      // One of each page, however it was asked for.
      const whole = request.mode === "navigate" || url.pathname.startsWith("/assets/");
      if (answer.ok && whole) (await caches.open(KEPT)).put(url.pathname.startsWith("/assets/") ? request : url.pathname, answer.clone());
      return answer;
    } catch (error) {
      const there = await (await caches.open(KEPT)).match(url.pathname.startsWith("/assets/") ? request : url.pathname, { ignoreVary: true });
      if (there) return there;
      throw error;
    }
  })());
});
