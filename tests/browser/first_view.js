// What the first view of a page holds. A word in a sentence has a wider area to touch than its box (.define::after). Returned to tests/browser/first_view.py, at one width after another.
(least) => {
  const controls = [...document.querySelectorAll("a, button, select, input, textarea, summary")].filter((one) =>
    one.checkVisibility({ visibilityProperty: true, opacityProperty: true }) && one.type !== "hidden" && !one.closest(".skip"));
  const boxes = controls.map((one) => [one, one.getBoundingClientRect()]).filter(([, box]) => box.width && box.height);
  const inView = boxes.filter(([, box]) => box.top < innerHeight && box.bottom > 0 && box.left < innerWidth && box.right > 0);
  const inText = (one) => getComputedStyle(one).display === "inline" || one.closest("p.sentence, .prose, svg, .define");
  const small = boxes.filter(([one, box]) => !inText(one) && one.type !== "file" && (box.height < least || box.width < least))
    .map(([one, box]) => `${one.tagName} ${(one.textContent || one.name || "").trim().slice(0, 30)} ${Math.round(box.width)}x${Math.round(box.height)}`);
  const action = document.querySelector(".acts .solid, .tap, button.solid, a.solid");
  const at = action?.getBoundingClientRect();
  const scrolls = [...document.querySelectorAll("main *")].filter((one) =>
    one.scrollWidth > one.clientWidth + 1 && ["auto", "scroll"].includes(getComputedStyle(one).overflowX)).map((one) => one.className || one.tagName);
  const head = document.querySelector(".head");
  return {
    controls: inView.length,
    small,
    over: document.documentElement.scrollWidth - innerWidth,
    scrolls,
    action: action ? at.top >= 0 && at.bottom <= innerHeight + 1 : null,
    head: head ? Math.round(head.getBoundingClientRect().height) : 0,
    html: document.documentElement.outerHTML.length,
  };
};
