// In a studio: the service worker, and what today needs, kept for a phone that is off the net.

import { bringIn } from "./drop.js";
import { soundsOf } from "./sound.js";

const PAGES = "giusto-today";
const SHARED = "giusto-shared";
const LIST = "/today/kept.json"; // what is kept, by its name
const RATES_HZ = [44100, 48000];

/** Keep each page that today leads to, and its sounds. */
async function keepToday() {
  const links = [.../** @type {NodeListOf<HTMLAnchorElement>} */ (document.querySelectorAll(".minute-rule a[href*='/play/']"))];
  const cache = await caches.open(PAGES);
  const kept = [];
  for (const link of links) {
    const name = link.closest("li")?.querySelector(".minute-name")?.textContent?.trim() ?? "";
    const response = await fetch(link.href).catch(() => null);
    if (!response?.ok || response.redirected) continue;
    await cache.put(link.href, response.clone());
    await keepSounds(cache, await response.text());
    kept.push({ url: link.href, name });
  }
  await cache.put(LIST, new Response(JSON.stringify(kept)));
  document.body.dataset.kept = String(kept.length); // for tests and the curious; nothing here reads it
}

/** @param {Cache} cache @param {string} html */
async function keepSounds(cache, html) {
  const plan = new DOMParser().parseFromString(html, "text/html").getElementById("plan")?.textContent;
  if (!plan) return;
  const { delivery, clicks } = JSON.parse(plan);
  for (const rate of RATES_HZ) {
    for (const [, url] of soundsOf(delivery, clicks, rate)) {
      if (!(await cache.match(url))) await cache.add(url).catch(() => {});
    }
  }
}

/** Bring in what another program shared with this one. */
async function takeShared() {
  const cache = await caches.open(SHARED);
  const [request] = await cache.keys();
  const response = request && (await cache.match(request));
  if (!response) return;
  const name = decodeURIComponent(response.headers.get("X-Name") ?? "recording");
  const transfer = new DataTransfer();
  transfer.items.add(new File([await response.blob()], name, { type: response.headers.get("Content-Type") ?? "" }));
  await cache.delete(request);
  await bringIn(transfer.files);
}

/** A new version takes over between pages, and never while a take is played in any of them. @param {ServiceWorkerRegistration} registration */
async function renew(registration) {
  const { held } = await navigator.locks.query();
  if (registration.waiting && !held?.some((lock) => lock.name?.startsWith("giusto-take-"))) registration.waiting.postMessage("now");
}

async function start() {
  const registration = await navigator.serviceWorker.register("/worker.js");
  renew(registration);
  if (document.querySelector(".minute-rule")) {
    await navigator.serviceWorker.ready;
    await keepToday();
  }
  if (new URLSearchParams(location.search).has("shared")) await takeShared();
}

if ("serviceWorker" in navigator && !document.body.hasAttribute("data-looking")) start().catch((error) => console.warn("nothing is kept", error));
