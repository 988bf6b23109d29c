// The service worker: what every page needs is kept, and what today needs; without a net, that is what there is.
// The server puts PLAN before it: the files by the names that they have today, and addresses.

const worker = /** @type {any} */ (self);
const plan = worker.PLAN;
const STATIC = `giusto-static-${plan.version}`;
const PAGES = "giusto-today"; // of whoever is signed in: emptied at the door
const SHARED = "giusto-shared";
const PATIENCE_MS = 6000; // for a page that is kept as well

worker.addEventListener("install", (/** @type {any} */ event) => {
  event.waitUntil(caches.open(STATIC).then((cache) => cache.addAll(plan.files)));
});

worker.addEventListener("activate", (/** @type {any} */ event) => {
  event.waitUntil(
    caches.keys().then((names) =>
      Promise.all(names.filter((name) => name.startsWith("giusto-static-") && name !== STATIC).map((name) => caches.delete(name))),
    ),
  );
});

// A new version waits until no page plays: the page says when.
worker.addEventListener("message", (/** @type {any} */ event) => {
  if (event.data === "now") worker.skipWaiting();
});

worker.addEventListener("fetch", (/** @type {any} */ event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (url.origin !== worker.location.origin) return;
  if (request.method === "POST" && url.pathname === plan.shared) return event.respondWith(shared(request));
  if (request.method === "GET" && url.pathname.startsWith(plan.static)) return event.respondWith(first(request, STATIC));
  if (request.method === "GET" && url.pathname.startsWith(plan.sounds)) return event.respondWith(first(request, PAGES));
  if (request.mode === "navigate") event.respondWith(page(request, url));
});

/** What is kept under a name that never changes: from here first. @param {Request} request @param {string} name */
async function first(request, name) {
  return (await caches.match(request)) ?? keep(await fetch(request), request, name);
}

/** @param {Response} response @param {Request} request @param {string} name */
async function keep(response, request, name) {
  if (response.ok) (await caches.open(name)).put(request, response.clone());
  return response;
}

/** A page: from the net; where there is none, as it was kept, else the page that says so. @param {Request} request @param {URL} url */
async function page(request, url) {
  const kept = request.method === "GET" ? await caches.match(request) : undefined;
  try {
    const response = await (kept ? within(fetch(request), PATIENCE_MS) : fetch(request));
    if (isDoor(response, url)) await caches.delete(PAGES);
    else if (response.ok && url.pathname === plan.today && !response.redirected) await keep(response, request, PAGES);
    return response.status >= 502 && kept ? kept : response;
  } catch {
    return kept ?? (await caches.match(plan.offline)) ?? Response.error();
  }
}

/** Whether somebody went out, or was led to the door. @param {Response} response @param {URL} url */
function isDoor(response, url) {
  return plan.door.includes(url.pathname) || plan.door.includes(new URL(response.url || url).pathname);
}

/** @param {Promise<Response>} answer @param {number} ms @returns {Promise<Response>} */
function within(answer, ms) {
  return Promise.race([answer, new Promise((_, refuse) => setTimeout(() => refuse(new Error("late")), ms))]);
}

/** A recording that another program shared: kept until the page for it asks. @param {Request} request */
async function shared(request) {
  const file = (await request.formData()).get("file");
  if (file instanceof File) {
    const headers = { "Content-Type": file.type, "X-Name": encodeURIComponent(file.name) };
    await (await caches.open(SHARED)).put(plan.shared, new Response(file, { headers }));
  }
  return Response.redirect(`${plan.recording}?shared=1`, 303);
}
