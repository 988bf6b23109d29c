// Words of one picture whose ink lies over one another: a text's box is higher than its ink. Returned to tests/browser/first_view.py.
() => {
  const found = [];
  const texts = [...document.querySelectorAll("svg text")].filter((one) => one.checkVisibility() && one.textContent.trim());
  const groups = new Map();
  for (const text of texts) {
    const svg = text.closest("svg");
    if (svg.closest("details:not([open])")) continue;
    groups.set(svg, [...(groups.get(svg) ?? []), text]);
  }
  for (const some of groups.values()) {
    const boxes = some.map((one) => {
      const { left, right, top, bottom, height } = one.getBoundingClientRect();
      return [one.textContent.trim(), { left, right, top: top + 0.2 * height, bottom: bottom - 0.2 * height }];
    });
    boxes.forEach(([a, x], i) => boxes.slice(i + 1).forEach(([b, y]) => {
      const w = Math.min(x.right, y.right) - Math.max(x.left, y.left);
      const h = Math.min(x.bottom, y.bottom) - Math.max(x.top, y.top);
      if (w > 2 && h > 2) found.push(`${a} | ${b}`);
    }));
  }
  return found.slice(0, 5);
};
