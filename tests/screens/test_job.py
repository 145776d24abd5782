"""The whole job in the browser, with the bench's devices."""

import re
from collections.abc import Callable
from typing import Any

import numpy as np
from playwright.sync_api import Locator, Page, expect

from tests.helpers import Application, eventually, likeness

PLATES = ["page-and-face", "page", "face", "side-by-side"]


def shown(page: Page, label: str) -> Locator:
    """A picture that has really been drawn."""
    return page.locator(f"canvas[aria-label='{label}'][data-shown=true]")


def plate_on(app: Application) -> str:
    return str(app.get("/api/live")["outgoing"]["plate_id"])


def chain_of(app: Application, device_id: str = "desk-camera") -> dict:
    return dict(app.get(f"/api/square-up/{device_id}")["chain"])


def square_up(page: Page) -> None:
    page.goto("/square-up")
    expect(shown(page, "The raw picture with four corners")).to_be_visible()
    expect(shown(page, "The straightened page")).to_be_visible()


def test_from_home_to_going_out(page: Page, app: Application) -> None:
    page.goto("/")
    with page.expect_popup() as opened:
        page.get_by_role("button", name="Teach this lesson: Reading the ground 9B").click()
    expect(shown(page, "The outgoing picture")).to_be_visible()
    eventually(lambda: app.get("/api/live")["going_out"])  # by the outgoing window
    opened.value.close()
    eventually(lambda: not app.get("/api/live")["going_out"])
    page.keyboard.press("g")
    for audience in ("Laptop, pinned", "Laptop, grid of nine", "Phone, landscape", "Your own view"):
        expect(shown(page, f"What {audience} gets")).to_be_visible()
    expect(page.get_by_role("article", name="Laptop, pinned").get_by_text("Reads true")).to_be_visible()
    expect(page.get_by_role("article", name="Laptop, pinned").get_by_text(re.compile(r"Reads \d+ pt and up"))).to_be_visible()
    expect(page.get_by_role("article", name="Your own view").get_by_text("Mirrored for you")).to_be_visible()
    assert app.get("/api/live")["going_out"]

    def only_mine_is_mirrored() -> bool:
        own, learners = (app.picture(f"audience:{who}", 300)[:160, :296] for who in ("self", "pinned"))
        return likeness(own[:, ::-1], learners) > likeness(own, learners) + 0.2

    assert eventually(only_mine_is_mirrored)
    page.get_by_role("button", name="Look closer: Laptop, grid of nine").click()
    expect(shown(page, "What Laptop, grid of nine gets, full size")).to_be_visible()
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.get_by_role("button", name="Stop practice call").click()
    eventually(lambda: not app.get("/api/live")["going_out"])


def test_plates_change_by_key_and_by_press(page: Page, app: Application) -> None:
    page.goto("/teach")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    expect(page.get_by_role("button", name="Side by side")).to_be_visible()
    pictures = []
    for key, plate in enumerate(PLATES, 1):
        page.keyboard.press(str(key))
        eventually(lambda wanted=plate: plate_on(app) == wanted)  # type: ignore[misc]
        pictures.append(app.pictures("outgoing", 4)[-1])
    for at, one in enumerate(pictures):
        for other in pictures[at + 1 :]:
            assert np.abs(one.astype(int) - other).mean() > 3
    page.get_by_role("button", name="Page and face").click()
    eventually(lambda: plate_on(app) == "page-and-face")
    expect(page.get_by_role("button", name="Page and face")).to_have_attribute("aria-pressed", "true")


def test_dragging_a_corner_changes_the_outgoing_picture_and_undo_takes_it_back(page: Page, app: Application) -> None:
    square_up(page)
    before, picture = chain_of(app), app.pictures("outgoing", 3)[-1]
    corner = page.get_by_role("button", name="Upper left corner")
    corner.hover()  # waits until it stands still
    box = corner.bounding_box()
    assert box is not None
    page.mouse.down()
    page.mouse.move(box["x"] - 50, box["y"] + 40, steps=6)
    eventually(lambda: chain_of(app) != before)
    moved = app.pictures("outgoing", 3)[-1]
    page.mouse.up()
    assert np.abs(moved.astype(int) - picture).mean() > 5
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.keyboard.press("z")
    eventually(lambda: chain_of(app) == before)
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    page.keyboard.press("y")
    eventually(lambda: chain_of(app) != before)


def test_corners_by_arrow_keys(page: Page, app: Application) -> None:
    square_up(page)
    before = chain_of(app)["square"]["corners"]
    page.get_by_role("button", name="Lower right corner").focus()
    page.keyboard.press("Shift+ArrowRight")
    eventually(lambda: abs(chain_of(app)["square"]["corners"][2][0] - before[2][0] - 0.02) < 1e-9)


def test_square_it_up_finds_the_page_after_it_was_spoilt(page: Page, app: Application) -> None:
    wrong = {"square": {"corners": [[0.1, 0.1], [0.9, 0.2], [0.8, 0.9], [0.2, 0.8]], "aspect": 1.3}}
    app.ask("PUT", "/api/square-up/desk-camera/chain", {"chain": wrong})
    square_up(page)
    page.get_by_role("button", name="Square it up").click()
    eventually(lambda: chain_of(app)["square"]["paper"] == "A4")
    expect(page.get_by_text("A4 portrait").first).to_be_visible()
    assert chain_of(app)["turn"]["quarters"] == 2


def test_a_flip_reads_reversed_everywhere_and_is_mended(page: Page, app: Application) -> None:
    square_up(page)
    learners = page.get_by_label("The light path").locator(".line").first
    expect(learners).to_contain_text("Reads true")
    page.get_by_role("button", name="Mirror", exact=True).click()
    page.get_by_role("button", name="Left–right").click()
    expect(learners).to_contain_text("Reads reversed")
    expect(learners).to_contain_text("1 reflection: flipped here left-right")
    expect(page.get_by_role("link", name="Square up")).to_have_class(re.compile("attention"))
    page.get_by_role("link", name="Teach").click()
    expect(page.get_by_role("article", name="Laptop, pinned").get_by_text("Reads reversed")).to_be_visible()
    app.ask("POST", "/api/square-up/desk-camera/undo")
    expect(page.get_by_role("article", name="Laptop, pinned").get_by_text("Reads true")).to_be_visible()


def test_each_link_can_be_switched_off_and_keeps_its_values(page: Page, app: Application) -> None:
    square_up(page)
    before = chain_of(app)
    for link in ("Unbend", "Square", "Turn", "Mirror", "Frame", "Light", "Colour"):
        name = link.lower()
        shown_as = {"Light": "Even light", "Frame": "Part shown"}.get(link, link)
        switched = {**before, name: {**before[name], "on": not before[name]["on"]}}
        page.get_by_role("switch", name=f"{shown_as} on").click()
        eventually(lambda switched=switched: chain_of(app) == switched)  # type: ignore[misc]
        page.get_by_role("switch", name=f"{shown_as} on").click()
        eventually(lambda: chain_of(app) == before)


def test_every_correction_has_its_handle(page: Page, app: Application) -> None:
    square_up(page)

    def by_key(slider: str, key: str, look: Callable[[], bool]) -> None:
        page.get_by_role("slider", name=slider).focus()
        page.keyboard.press(key)
        eventually(look)
        page.wait_for_timeout(300)
        assert look(), chain_of(app)

    def opened(link: str) -> None:
        page.get_by_role("button", name=link, exact=True).click()

    opened("Turn")
    page.get_by_role("button", name="Quarter right").click()
    eventually(lambda: chain_of(app)["turn"]["quarters"] == 3)
    by_key("Fine turn", "ArrowRight", lambda: chain_of(app)["turn"]["fine_deg"] == 0.1)
    opened("Even light")
    by_key("Lift", "ArrowLeft", lambda: chain_of(app)["light"]["lift"] == 0.99)
    opened("Unbend")
    by_key("Lens curve", "ArrowLeft", lambda: abs(chain_of(app)["unbend"]["distortion"] + 0.002) < 1e-9)
    page.get_by_role("switch", name="Unbend on").click()
    opened("Part shown")
    by_key("Zoom", "ArrowRight", lambda: chain_of(app)["frame"]["zoom"] == 1.92)
    before = app.get("/api/square-up/desk-camera")["readings"]
    opened("Square")
    by_key(
        "Vertical slant",
        "ArrowRight",
        lambda: abs(app.get("/api/square-up/desk-camera")["readings"]["keystone_vertical"] - round(before["keystone_vertical"]) - 1) < 1e-6,
    )
    opened("Mirror")
    page.get_by_role("button", name="Top–bottom").click()
    eventually(lambda: chain_of(app)["mirror"]["top_bottom"])


def test_the_frame_is_dragged_on_the_page_and_zoomed_by_the_wheel(page: Page, app: Application) -> None:
    square_up(page)
    before = chain_of(app)["frame"]
    canvas = shown(page, "The straightened page")
    box = canvas.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 150, box["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] + 150, box["y"] + 240, steps=4)
    page.mouse.up()
    eventually(lambda: chain_of(app)["frame"]["y"] > before["y"] + 0.02)
    page.mouse.wheel(0, -100)
    eventually(lambda: chain_of(app)["frame"]["zoom"] > before["zoom"])


def test_holding_a_key_compares_with_the_raw_picture(page: Page, app: Application) -> None:
    square_up(page)
    page.keyboard.down("c")
    expect(page.get_by_text("As it comes", exact=True)).to_be_visible()
    page.keyboard.up("c")
    expect(page.get_by_text("As it comes", exact=True)).to_be_hidden()


def test_a_name_a_role_and_a_rig_are_set_on_the_kit_screen(page: Page, app: Application) -> None:
    page.goto("/kit")
    clip = page.get_by_role("article", name="Clip mirror")
    expect(shown(page, "Live picture of Clip mirror")).to_be_visible()
    clip.locator(".serves .ant-segmented-item", has_text="Page").click()
    eventually(lambda: [d["id"] for d in app.get("/api/kit")["devices"] if d["serves"] == "page"] == ["clip-camera"])
    clip.get_by_label("Name", exact=True).fill("Mirror clip")
    page.keyboard.press("Enter")
    renamed = page.get_by_role("article", name="Mirror clip")
    expect(renamed).to_be_visible()
    renamed.get_by_label("How it is held").select_option(label="In the hand")
    eventually(lambda: app.get("/api/kit")["devices"][1]["rig"] == "in-hand")
    expect(renamed.get_by_text("Costs you one hand, and the picture shakes.")).to_be_visible()


def test_a_black_camera_is_told_and_brought_back_in_one_press(page: Page, app: Application) -> None:
    page.goto("/teach")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    app.pictures("outgoing", 8)
    app.ask("PUT", "/api/kit/devices/desk-camera/fault", {"fault": "black"})
    expect(page.get_by_text("Desk camera: no picture.")).to_be_visible()
    assert app.pictures("outgoing", 3)[-1][300:600, 200:900].mean() > 120
    page.get_by_role("link", name="Open Kit").click()
    card = page.get_by_role("article", name="Desk camera")
    expect(card.get_by_text("Black", exact=True)).to_be_visible()
    expect(page.get_by_role("link", name="Kit")).to_have_class(re.compile("attention"))
    card.get_by_role("button", name="Bring it back").click()
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    expect(page.get_by_role("link", name="Kit")).to_have_class(re.compile("done"))


def test_faults_are_provoked_on_the_kit_screen(page: Page, app: Application) -> None:
    page.goto("/kit")
    card = page.get_by_role("article", name="Clip mirror")
    expect(card.get_by_text("Live", exact=True)).to_be_visible()
    for fault, word in (("pulled out", "Lost"), ("asleep", "Asleep"), ("out of focus", "Out of focus")):
        card.get_by_label("Provoke a fault").select_option(label=f"Bench: {fault}")
        expect(card.get_by_text(word, exact=True)).to_be_visible()
        card.get_by_label("Provoke a fault").select_option(label="Bench: it works")
        expect(card.get_by_text("Live", exact=True)).to_be_visible()


def test_two_tabs_agree(page: Page, app: Application) -> None:
    page.goto("/teach")
    other = page.context.new_page()
    other.goto("/teach")
    expect(other.get_by_role("button", name="Face", exact=False).first).to_be_visible()
    page.keyboard.press("3")
    expect(other.get_by_role("button", name="3 Face")).to_have_attribute("aria-pressed", "true")


def test_the_outgoing_window_holds_nothing_but_the_picture(page: Page, app: Application) -> None:
    page.goto("/teach")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    with page.expect_popup() as opened:
        page.keyboard.press("o")
    window = opened.value
    expect(shown(window, "The outgoing picture")).to_be_visible()
    assert window.locator("body").inner_text().strip() == ""
    assert window.locator("a, button, header, nav").count() == 0
    assert app.get("/api/live")["going_out"]
    expect(page.locator(".cartouche.live")).to_be_visible()
    window.close()
    eventually(lambda: not app.get("/api/live")["going_out"])


def test_without_any_feed_a_calm_card_goes_out(page: Page, app: Application) -> None:
    for device in ("desk-camera", "face-camera"):
        app.ask("PATCH", f"/api/kit/devices/{device}", {"serves": "nothing"})
    page.goto("/outgoing")
    expect(shown(page, "The outgoing picture")).to_be_visible()
    for picture in app.pictures("outgoing", 5):
        assert picture.mean() > 180
        assert picture.min() < 120, "it says something"


def what_was_set(app: Application) -> tuple[Any, ...]:
    """By the teacher; what is measured goes on changing."""
    devices = [(one["id"], one["name"], one["rig"], one["serves"], one["wish"]) for one in app.get("/api/kit")["devices"]]
    return app.get("/api/teach"), devices, chain_of(app)


def test_a_killed_process_comes_back_to_the_same_lesson(page: Page, app: Application) -> None:
    page.goto("/")
    page.get_by_role("button", name="Open: Reading the ground 9A").click()
    expect(page.get_by_role("button", name="Teach this lesson: Reading the ground 9A")).to_be_visible()
    page.get_by_role("link", name="Teach").click()
    expect(shown(page, "The outgoing picture")).to_be_visible()
    page.keyboard.press("4")
    eventually(lambda: plate_on(app) == "side-by-side")
    app.ask("PUT", "/api/square-up/desk-camera/chain", {"chain": {**chain_of(app), "turn": {"quarters": 2, "fine_deg": 1.5}}})
    app.ask("PUT", "/api/teach/outgoing", {"size": "1080p"})
    page.keyboard.press("g")
    eventually(lambda: app.get("/api/live")["going_out"])
    kept = what_was_set(app)
    app.kill()
    expect(page.get_by_text("Cartouche isn’t answering")).to_be_visible()
    app.start()
    assert what_was_set(app) == kept
    assert kept[0]["lesson"]["class_name"] == "9A"
    assert not app.get("/api/live")["going_out"]
    expect(page.get_by_text("Cartouche isn’t answering")).to_be_hidden()
    page.keyboard.press("g")
    expect(shown(page, "What Laptop, pinned gets")).to_be_visible()
    assert app.get("/api/live")["going_out"]


def test_a_lesson_is_added_and_opened(fresh_page: Page, app: Application) -> None:
    page = fresh_page
    page.goto("/")
    page.get_by_role("button", name="Add a lesson").click()
    page.get_by_label("What it is about").fill("Slopes")
    page.get_by_label("Class").fill("7D")
    page.get_by_label("Begins at").fill("11:35")
    page.get_by_role("button", name="Add it").click()
    page.get_by_role("button", name="Open: Slopes 7D").click()
    with page.expect_popup():  # the outgoing window
        page.get_by_role("button", name="Teach this lesson: Slopes 7D").click()
    expect(page.get_by_role("banner").get_by_text("Slopes · 7D")).to_be_visible()
    expect(shown(page, "The outgoing picture")).to_be_visible()
