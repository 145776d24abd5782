"""Usable by everybody: what axe finds once nothing fades any more (a text that fades has less contrast), and by how many Tab stops."""

from playwright.sync_api import Page

from tests.helpers import ROOT, eventually

AXE = (ROOT / "frontend" / "node_modules" / "axe-core" / "axe.min.js").read_text()
RUN = """async (part) => (await axe.run(part ?? document)).violations
  .filter((one) => ['serious', 'critical'].includes(one.impact)).map((one) => [one.id, one.nodes.map((node) => node.html).slice(0, 5)])"""


def accessible(page: Page, part: str | None = None) -> None:
    """Nothing serious, in this part of the page or in all of it."""
    page.evaluate(AXE)
    found: list[object] = []

    def nothing() -> bool:
        found[:] = page.evaluate(RUN, part)
        return not found

    try:
        eventually(nothing)
    except AssertionError:
        raise AssertionError(found) from None


def tab_stops(page: Page) -> int:
    """From the top until the focus comes round, 150 at most."""
    page.evaluate("document.activeElement?.blur()")
    for count in range(150):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement === document.body"):
            return count
    return 150
