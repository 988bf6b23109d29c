// The page for no net: what of today is kept here.

const response = await caches.match("/today/kept.json");
/** @type {{url: string, name: string}[]} */
const kept = response ? await response.json() : [];
const list = document.getElementById("kept");
for (const one of kept) {
  const [line, link] = [document.createElement("li"), document.createElement("a")];
  Object.assign(link, { href: one.url, textContent: one.name, className: "linklike" });
  line.append(link);
  list?.append(line);
}
const none = document.getElementById("none");
if (none) none.hidden = kept.length > 0;

export {};
