"""What a teacher gives: long names, other names of the same, a file chosen as another kind, a handle at its end; and what is said of it."""

import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests import samples
from tests.helpers import Application, eventually, settled
from tests.screens.layout import layout_faults
from tests.screens.test_job import chain_of, square_up
from tests.screens.test_kit import something_else
from tests.sentences import faults

LONG = "Reading the ground from contour lines and hachures, part 12"


def said(page: Page) -> str:
    """The alert's own sentence, which keeps to the rules of all sentences."""
    text = page.get_by_role("alert").last.inner_text().split("\n")[0]
    assert faults(text) == [], text
    return text


def test_a_long_lesson_name_wraps_at_twice_the_size(page: Page, app: Application) -> None:
    lesson = app.ask("POST", "/api/lessons", {"title": LONG, "class_name": "9B, with the guests of 9C", "starts": "10:20"})
    page.set_viewport_size({"width": 640, "height": 400})  # what 1280x800 leaves at 200 %
    page.goto("/")
    button = page.get_by_role("button", name=re.compile(f"(Open|Teach this lesson): {LONG}"))
    expect(button).to_be_visible()
    page.evaluate("document.fonts.ready")
    for each in page.get_by_role("button", name=re.compile("^(Open|Teach this lesson): ")).all():
        box = each.bounding_box()
        assert box is not None
        assert box["x"] >= 0
        assert box["x"] + box["width"] <= 640
    assert layout_faults(page) == []
    app.ask("DELETE", f"/api/lessons/{lesson['id']}")


def test_a_corner_over_another_is_refused_in_a_sentence_and_nothing_is_lost(page: Page, app: Application) -> None:
    square_up(page)
    before = chain_of(app)["square"]["corners"]
    page.get_by_role("button", name="Upper left corner").focus()
    for _ in range(60):
        page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_role("alert").last).to_contain_text("corner")
    said(page)
    kept = settled(lambda: chain_of(app)["square"]["corners"])
    assert kept[1:] == before[1:]
    app.ask("POST", "/api/square-up/desk-camera/undo")


KIT_GARBAGE = ({"format": "something-else"}, {"format": "cartouche-kit", "version": 1, "devices": [{"name": "x" * 500}]})
PLATES_GARBAGE = ({"format": "cartouche-plates", "version": 1, "plates": [{"name": "x" * 500, "places": []}]}, ["nothing"])


@pytest.mark.parametrize(
    ("where", "field", "garbage"), [("/kit", "Kit file", KIT_GARBAGE), ("/plates", "Plates file", PLATES_GARBAGE)], ids=["kit", "plates"]
)
def test_garbage_is_refused_in_one_sentence(page: Page, app: Application, where: str, field: str, garbage: tuple[Any, ...]) -> None:
    page.goto(where)
    for content in garbage:
        given = {"name": "a.json", "mimeType": "application/json", "buffer": json.dumps(content).encode()}
        page.get_by_label(field).set_input_files(given)  # type: ignore[arg-type]
        expect(page.get_by_role("alert").last).to_be_visible()
        assert said(page).endswith(".")
        page.get_by_role("alert").last.get_by_role("button").last.click()  # heard
        expect(page.get_by_role("alert")).to_have_count(0)


def test_what_has_the_same_name_is_numbered(page: Page, app: Application, tmp_path: Path) -> None:
    path = samples.picture_pdf(tmp_path / "Contours.pdf", (40, 200))
    for _ in range(2):
        something_else(page, "Pages, slides or a clip").get_by_label("File", exact=True).set_input_files(path)
        expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("article", name="Contours", exact=True)).to_be_visible()
    expect(page.get_by_role("article", name="Contours 2", exact=True)).to_be_visible()


@pytest.mark.parametrize(("chosen_as", "kind"), [("Pages", "clip"), ("Clip", "slides")])
def test_a_file_is_taken_as_what_it_is(page: Page, app: Application, tmp_path: Path, chosen_as: str, kind: str) -> None:
    dialog = something_else(page, "Pages, slides or a clip")
    dialog.get_by_text(chosen_as, exact=True).click()
    path = samples.clip(tmp_path / "Walk.webm") if kind == "clip" else samples.picture_pdf(tmp_path / "Walk.pdf", (40, 200))
    dialog.get_by_label("File", exact=True).set_input_files(path)
    expect(page.get_by_role("article", name="Walk").get_by_text("Live", exact=True)).to_be_visible()
    taken = next(one for one in app.get("/api/kit")["devices"] if one["name"] == "Walk")
    assert taken["kind"] == ("clip" if kind == "clip" else "pages")


def test_a_slant_at_its_end_still_moves_the_other_way(page: Page, app: Application) -> None:
    square_up(page)
    before = chain_of(app)["square"]["corners"]

    def readings() -> dict[str, float]:
        read: dict[str, float] = app.get("/api/square-up/desk-camera")["readings"]
        return read

    page.get_by_role("slider", name="Vertical slant").focus()
    page.keyboard.press("End")
    ended = settled(lambda: chain_of(app)["square"]["corners"])
    assert ended != before
    horizontal = readings()["keystone_horizontal"]
    page.get_by_role("slider", name="Horizontal slant").focus()
    for key in ("ArrowRight", "ArrowRight", "ArrowRight"):
        page.keyboard.press(key)
    eventually(lambda: readings()["keystone_horizontal"] == pytest.approx(round(horizontal) + 3, abs=0.5))
    assert page.get_by_role("alert").filter(has_text="cross").count() == 0
    app.ask(
        "PUT", "/api/square-up/desk-camera/chain", {"chain": {**chain_of(app), "square": {**chain_of(app)["square"], "corners": before}}}
    )


def test_there_are_words_for_each_way_of_going_out(page: Page, app: Application) -> None:
    """The practice call is never taken for a call: with the outgoing window alone the lesson goes out, and is said to."""
    page.goto("/teach")
    card = page.get_by_role("article", name="Laptop, pinned")
    expect(card.get_by_text("Start the practice call to see it")).to_be_visible()
    with page.expect_popup() as opened:
        page.keyboard.press("o")
    expect(opened.value.locator("canvas[data-shown=true]")).to_be_visible()
    expect(page.get_by_text("Start the call", exact=True)).to_have_count(0)
    expect(card.get_by_text("Start the practice call for an example")).to_be_visible()
    expect(page.get_by_role("button", name="Start practice call")).to_be_visible()
    opened.value.close()
