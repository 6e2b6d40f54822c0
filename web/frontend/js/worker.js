// The service worker of a student's page: from the first visit on the page, what it is
// made of and the music of its parts and steps are kept on the device, so that it can be
// read and played along to where there is no connection. What is new comes from the
// server whenever it answers; a link that was ended takes all of its page with it.
const assets = "valleyside assets";
const pages = "valleyside pages";
const music = "valleyside music";
const patience = 4000; // ms for which the server is waited for where there is a copy

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

self.addEventListener("message", (event) => {
  if (event.data?.keep) event.waitUntil(keep(event.data.keep, event.data.page, event.data.assets));
});

// keep fetches what a page will need, and lets go of the music of the page that it does
// not need any more.
async function keep(addresses, page, files) {
  const kept = await caches.open(music);
  const wanted = new Set(addresses.map((a) => new URL(a, self.location).href));
  for (const request of await kept.keys()) {
    if (request.url.startsWith(`${page}/`) && !wanted.has(request.url)) await kept.delete(request);
  }
  for (const address of wanted) if (!(await kept.match(address))) await add(kept, address);
  const own = await caches.open(assets);
  for (const file of files) if (!(await own.match(file))) await add(own, file);
  const current = new Set(files.map((f) => new URL(f, self.location).href));
  for (const request of await own.keys()) {
    const at = new URL(request.url);
    if (at.search && [...current].some((f) => new URL(f).pathname === at.pathname) && !current.has(request.url)) await own.delete(request);
  }
  const self_ = await caches.open(pages);
  if (!(await self_.match(page))) await add(self_, page);
}

async function add(cache, address) {
  try {
    const response = await fetch(address);
    if (response.ok) await cache.put(address, response);
  } catch { /* another time */ }
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (url.pathname.startsWith("/static/")) event.respondWith(first(assets, request));
  else if (/^\/s\/[^/]+\/music\//.test(url.pathname)) event.respondWith(first(music, request));
  else if (request.mode === "navigate" && /^\/s\/[^/]+$/.test(url.pathname)) event.respondWith(fresh(request, `${url.origin}${url.pathname}`));
});

// first is a copy where there is one; such addresses never change what they are.
async function first(name, request) {
  const cache = await caches.open(name);
  const copy = await cache.match(request);
  if (copy) return copy;
  const response = await fetch(request);
  if (response.ok) await cache.put(request, response.clone());
  return response;
}

// fresh is what the server answers, and the copy where it does not.
async function fresh(request, address) {
  const cache = await caches.open(pages);
  const copy = await cache.match(address);
  const asked = fetch(request).then(async (response) => {
    if (response.ok) await cache.put(address, response.clone());
    else if (response.status === 404 || response.status === 410 || response.status === 403) await forget(address);
    return response;
  });
  if (!copy) return asked;
  const late = new Promise((resolve) => { setTimeout(() => resolve(copy.clone()), patience); });
  return Promise.race([asked.catch(() => copy.clone()), late]);
}

// forget lets go of a page whose link was ended.
async function forget(address) {
  await (await caches.open(pages)).delete(address);
  const kept = await caches.open(music);
  for (const request of await kept.keys()) if (request.url.startsWith(`${address}/`)) await kept.delete(request);
}
