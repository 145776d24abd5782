"""What axe finds on a page as it stands once nothing fades any more: while a text fades in or out it has less contrast."""

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
