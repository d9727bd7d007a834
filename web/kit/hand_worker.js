// Lets a page for the hand open without a server, and nothing else: what it is made of
// is put into the store by the page itself, once it is whole. The server goes first for the page;
// what has its version in its address, and pictures, come from the store.
const path = new URL(self.registration.scope).pathname;
const store = "itemrack" + path.replaceAll("/", "-");

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

async function page(request) {
  try {
    const answer = await fetch(request);
    if (answer.status < 500) return answer;
  } catch { /* there is no server */ }
  return (await caches.match(path, { cacheName: store })) || Response.error();
}

async function part(request) {
  const kept = await caches.match(request, { cacheName: store });
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) (await caches.open(store)).put(request, answer.clone());
  return answer;
}

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== location.origin) return;
  if (event.request.mode === "navigate") event.respondWith(page(event.request));
  else if (/^\/(static|pictures)\//.test(url.pathname)) event.respondWith(part(event.request));
});
