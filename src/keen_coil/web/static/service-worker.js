// Keeps what never changes between two versions (letters, styles, scripts, signs) and one page for a lost connection.
// No call is kept here: what a page shows always comes from the laptop.
"use strict";

const KEPT = "keen-coil-" + new URL(self.location.href).searchParams.get("tag");
const AWAY = "/away";

self.addEventListener("install", function (event) {
  event.waitUntil(caches.open(KEPT).then(function (kept) { return kept.add(AWAY); }).then(self.skipWaiting()));
});

self.addEventListener("activate", function (event) {
  event.waitUntil(caches.keys().then(function (names) {
    return Promise.all(names.filter(function (name) {
      return name.startsWith("keen-coil-") && name !== KEPT;
    }).map(function (name) { return caches.delete(name); }));
  }).then(function () { return self.clients.claim(); }));
});

function kept(request) {
  return caches.match(request).then(function (had) {
    return had || fetch(request).then(function (found) {
      if (found.ok) {
        const copy = found.clone();
        caches.open(KEPT).then(function (all) { all.put(request, copy); });
      }
      return found;
    });
  });
}

self.addEventListener("fetch", function (event) {
  const request = event.request, address = new URL(request.url);
  if (request.method !== "GET" || address.origin !== self.location.origin) return;
  if (address.pathname.startsWith("/static/")) event.respondWith(kept(request));
  else if (request.mode === "navigate") {
    event.respondWith(fetch(request).catch(function () { return caches.match(AWAY); }));
  }
});
