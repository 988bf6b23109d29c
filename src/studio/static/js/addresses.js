// Where scripts ask: every page hands its addresses over, and none is written here.

/** @type {Record<string, string>} */
const addresses = JSON.parse(document.body.dataset.addresses ?? "{}");

/**
 * Return an address of the page's own.
 * @param {string} name
 * @param {Record<string, string | number>} [parts] what is put into it
 */
export function address(name, parts = {}) {
  const found = addresses[name];
  if (!found) throw new Error(`the page has no address called ${name}`);
  return found.replace(/\{(\w+)\}/g, (_, part) => encodeURIComponent(parts[part]));
}
