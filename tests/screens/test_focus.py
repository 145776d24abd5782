"""By keyboard: where the focus is after dialogs, deletions and what is new, and what arrows do in a group."""

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.helpers import Application, eventually, settled

WHERE = """() => {
    const one = document.activeElement
    return one === document.body ? '' : one.getAttribute('aria-label') || one.innerText || one.tagName
}"""


def focus(page: Page) -> str:
    return str(settled(lambda: page.evaluate(WHERE)))


def test_arrows_move_inside_a_group(page: Page) -> None:
    page.goto("/teach")
    plates = page.get_by_role("group", name="Plates").get_by_role("button")
    expect(plates.first).to_be_visible()
    plates.first.focus()
    page.keyboard.press("ArrowRight")
    expect(plates.nth(1)).to_be_focused()
    page.keyboard.press("End")
    expect(plates.last).to_be_focused()
    page.keyboard.press("ArrowRight")
    expect(plates.first).to_be_focused()
    page.keyboard.press("Shift+Tab")
    page.keyboard.press("Tab")
    expect(plates.first).to_be_focused()


def test_the_first_tab_leads_past_the_header(page: Page) -> None:
    page.goto("/plates")
    expect(page.get_by_role("button", name="New plate")).to_be_visible()
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="To the screen")).to_be_focused()
    page.keyboard.press("Enter")
    assert page.evaluate("document.activeElement.closest('main') !== null")


def test_after_a_deleted_plate_the_next_one_has_the_focus(page: Page, app: Application) -> None:
    page.goto("/plates")
    names = [one["plate"]["name"] for one in app.get("/api/plates")["plates"]]
    page.keyboard.press("2")
    delete = page.get_by_role("button", name="Delete", exact=True)
    expect(delete).to_be_visible()
    delete.focus()
    page.keyboard.press("Enter")
    eventually(lambda: len(app.get("/api/plates")["plates"]) == len(names) - 1)
    eventually(lambda: page.evaluate("document.activeElement.closest('ol') !== null"))


def test_a_new_plate_and_a_new_place_have_the_focus(page: Page) -> None:
    page.goto("/plates")
    page.get_by_role("button", name="New plate").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of the plate")).to_have_value("New plate")
    expect(page.get_by_label("Name of the plate")).to_be_focused()
    page.get_by_label("Add a place").select_option(index=1)
    expect(page.get_by_role("button", name="Place 1:")).to_be_focused()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Delete")
    expect(page.get_by_role("button", name="Place 1:")).to_have_count(0)
    assert focus(page)


def test_after_a_dialog_the_focus_is_back_where_it_was(page: Page) -> None:
    page.goto("/kit")
    for opener in ("Invite a phone or tablet", "Add a camera on this computer", "New kit"):
        press = page.get_by_role("button", name=opener)
        press.focus()
        page.keyboard.press("Enter")
        dialog = page.get_by_role("dialog")
        expect(dialog).to_be_visible()
        eventually(lambda: page.evaluate("document.activeElement.closest('[role=dialog]') !== null"))
        page.keyboard.press("Escape")
        expect(dialog).to_have_count(0)
        expect(press).to_be_focused()


def test_what_was_added_has_the_focus_and_after_its_removal_what_stands_there(page: Page, app: Application, tmp_path: Path) -> None:
    page.goto("/kit")
    page.get_by_role("button", name="Add something else").focus()
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name="A network stream").click()
    page.get_by_label("Address").fill("rtsp://127.0.0.1:1/none")
    page.get_by_role("button", name="Use this stream").focus()
    page.keyboard.press("Enter")
    added = eventually(lambda: [one for one in app.get("/api/kit")["devices"] if one["kind"] == "stream"])[0]
    card = page.locator(f"[data-device={added['id']}]")
    expect(card).to_be_focused()
    card.get_by_role("button", name="Remove").focus()
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Remove it").click()
    expect(card).to_have_count(0)
    eventually(lambda: page.evaluate("document.activeElement.closest('main') !== null"))
