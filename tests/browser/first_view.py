"""What is in the first view of a page, and what axe says of it: measured in the browser, at three widths."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import axe_playwright_python
from playwright.sync_api import Page

WIDTHS = {1280: 800, 820: 1180, 390: 844}
MOST_CONTROLS, FEW_CONTROLS = 40, 24  # of the issue: on any page; where little is to be done
FEW = ("Today", "Progress", "A reading")
LEAST_TARGET = 43  # px; 44 less what rounding takes

# axe-core 4 looks at what it was not shown before: of narrower widths only at what stands on none that is wider.
AXE = (Path(axe_playwright_python.__file__).parent / "axe.min.js").read_text(encoding="utf-8")
RUN_AXE = """async () => {
  const seen = (globalThis.shownToAxe ??= new Set());
  const fresh = [...document.querySelectorAll("body, body *")].filter((one) => one.checkVisibility() && !seen.has(one));
  if (!fresh.length) return [];
  const found = await axe.run(seen.size ? { include: fresh } : document, { resultTypes: ["violations"] });
  for (const one of fresh) seen.add(one);
  return found.violations.map((v) => [v.impact, v.id, v.nodes.length, v.nodes[0].html.slice(0, 160)]);
}"""
MEASURE, OVERLAPS = (Path(__file__).with_name(name).read_text("utf-8") for name in ("first_view.js", "overlaps.js"))


@dataclass(frozen=True, slots=True)
class FirstView:
    """A page at a width, measured."""

    path: str
    width: int
    controls: int
    small: list[str]
    over: int
    scrolls: list[str]
    action: bool | None
    head: int
    html: int
    overlaps: list[str]

    @property
    def faults(self) -> list[str]:
        """What is beyond the bars."""
        few = self.path in FEW
        most = FEW_CONTROLS if few else MOST_CONTROLS
        found = [f"{self.controls} controls, allowed {most}"] if self.controls > most else []
        found += [f"too wide by {self.over}"] if self.over > 0 else []
        found += [f"words over words: {one}" for one in self.overlaps]
        if self.action is False:
            found.append("the action is not in the first view")
        if self.width == 390:
            found += [f"small: {one}" for one in self.small] + [f"scrolls sideways: {one}" for one in self.scrolls]
        return [f"{self.path} at {self.width}: {one}" for one in found]


def measure(page: Page, path: str, url: str) -> tuple[list[FirstView], list[str]]:
    """Return what the first view of a page is, at three widths, and what is wrong with it or by axe with the page."""
    page.set_viewport_size({"width": max(WIDTHS), "height": WIDTHS[max(WIDTHS)]})
    page.goto(url)
    page.evaluate(AXE)
    views: list[FirstView] = []
    faults: list[str] = []
    for width, height in WIDTHS.items():
        page.set_viewport_size({"width": width, "height": height})
        told: dict[str, Any] = page.evaluate(MEASURE, LEAST_TARGET)
        views.append(FirstView(path, width, overlaps=page.evaluate(OVERLAPS), **told))
        faults += views[-1].faults
        faults += [f"{path} at {width}: {found}" for found in page.evaluate(RUN_AXE)]
    return views, faults


def table(views: list[FirstView]) -> str:
    """Return a table of pages: controls in the first view at each width, the size of the page."""
    rows = ["| page | 1280 | 820 | 390 | HTML, kB |", "|---|---|---|---|---|"]
    for path in dict.fromkeys(view.path for view in views):
        at = {view.width: view for view in views if view.path == path}
        size = max(view.html for view in at.values()) / 1000
        rows.append(f"| {path} | {at[1280].controls} | {at[820].controls} | {at[390].controls} | {size:.0f} |")
    return "\n".join(rows) + "\n"
