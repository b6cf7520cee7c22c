"""What a screen must hold, measured in the browser: no fault of accessibility, no words over others or cut."""

from pathlib import Path
from typing import Any

from playwright.sync_api import Page

AXE = (Path(__file__).parents[1] / "vendor/axe.min.js").read_text()
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
LABELS = """() => {
  const found = [];
  // The letters' own box: a text's box without the air its font leaves above and below.
  const letters = (one) => {
    const box = one.getBBox(), matrix = one.getScreenCTM();
    const top = box.y + box.height * 0.22, low = box.y + box.height * 0.86, end = box.x + box.width;
    const corners = [[box.x, top], [end, top], [end, low], [box.x, low]]
      .map(([x, y]) => new DOMPoint(x, y).matrixTransform(matrix));
    const xs = corners.map((one) => one.x), ys = corners.map((one) => one.y);
    return { left: Math.min(...xs), right: Math.max(...xs), top: Math.min(...ys), bottom: Math.max(...ys) };
  };
  for (const svg of document.querySelectorAll("svg.sheet")) {
    const home = svg.getBoundingClientRect();
    const words = [...svg.querySelectorAll("text")]
      .filter((one) => one.checkVisibility() && one.textContent.trim() && one.getBBox().width > 1)
      .map((one) => [one.textContent, letters(one)]);
    words.forEach(([text, a], i) => {
      const beside = a.left < home.left - 1 || a.right > home.right + 1;
      if (beside || a.top < home.top - 1 || a.bottom > home.bottom + 1) found.push(["outside", text]);
      for (const [other, b] of words.slice(i + 1)) {
        const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
        const tall = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
        if (wide > 1.5 && tall > 1.5) found.push(["over", text, other]);
      }
    });
  }
  return found;
}"""
CUT = """() => {
  const found = [], seen = (one) => one.checkVisibility({ visibilityProperty: true });
  if (document.documentElement.scrollWidth > innerWidth + 1) found.push(["page", document.documentElement.scrollWidth]);
  for (const one of document.querySelectorAll("button, a, h1, h2, h3, th, td, dt, dd, p, label, summary, output")) {
    if (!seen(one) || one.closest(".sr, svg, [hidden]")) continue;
    const cut = getComputedStyle(one).overflowX !== "visible" && one.scrollWidth > one.clientWidth + 1;
    if (cut) found.push([one.tagName, one.textContent.trim().slice(0, 60)]);
  }
  return found;
}"""


def faults_of_access(page: Page) -> list[tuple[str, str]]:
    """Violations on the page as it is, by axe-core: rule and element."""
    if not page.evaluate("typeof axe === 'object'"):
        page.evaluate(AXE)
    answer: Any = page.evaluate("(rules) => axe.run(document, { runOnly: rules })", RULES)
    return [(one["id"], node["html"][:140]) for one in answer["violations"] for node in one["nodes"]]
