// The reading: Up and Down move between silences; Enter on one opens it, as any link.

const silences = [...document.querySelectorAll("[data-silence]")];

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
  const target = /** @type {Element} */ (event.target);
  if (target.closest("input, textarea, select") || !silences.length) return;
  const at = silences.indexOf(/** @type {Element} */ (document.activeElement));
  const next = event.key === "ArrowDown" ? at + 1 : at < 0 ? silences.length - 1 : at - 1;
  const link = silences[Math.min(Math.max(next, 0), silences.length - 1)];
  if (link instanceof HTMLElement) {
    event.preventDefault();
    link.focus();
  }
});
