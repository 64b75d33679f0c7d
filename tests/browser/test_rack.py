"""Mapping a flaw and fitting a bow in a real browser, by pointer and by keyboard alone."""

import re
from pathlib import Path
from types import SimpleNamespace

from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import unfold

STAVE = "/staves/14/"


def count(page: Page) -> int:
    return page.locator(".flaw").count()


def test_a_flaw_is_mapped_dragged_and_struck_with_the_pointer(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + STAVE)
    before = count(page)
    box = page.locator(".stave-picture .wood").bounding_box()
    assert box
    page.mouse.click(box["x"] + 0.3 * box["width"], box["y"] + 0.7 * box["height"])
    expect(page.get_by_label("From the left end in").first).not_to_have_value("")
    page.locator("#flaw-form select[name=kind]").select_option("loose knot")
    page.get_by_role("button", name="Keep the flaw").click()
    expect(page.locator(".flaw")).to_have_count(before + 1)
    mine = page.locator(".flaw[aria-label*='loose knot']")
    mine.scroll_into_view_if_needed()
    label = mine.get_attribute("aria-label")
    spot = mine.locator("ellipse").bounding_box()
    assert spot
    x, y = spot["x"] + spot["width"] / 2, spot["y"] + spot["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 120, y - 10, steps=6)
    page.mouse.up()
    expect(mine).not_to_have_attribute("aria-label", label or "")
    moved = mine.locator("ellipse").bounding_box()
    assert moved and abs(moved["x"] + moved["width"] / 2 - (x + 120)) < 4
    row = page.get_by_role("row", name="loose knot")
    row.get_by_role("button", name="Strike").click()
    expect(page.locator(".flaw")).to_have_count(before)


def test_a_flaw_is_mapped_moved_and_a_bow_fitted_with_the_keyboard_alone(
    demo: SimpleNamespace,
) -> None:
    page: Page = demo.page
    page.goto(demo.address + STAVE)
    before = count(page)
    page.locator("#flaw-form select[name=kind]").focus()
    for _ in range(8):
        page.keyboard.press("ArrowDown")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.type("50 1/2")
    page.get_by_role("button", name="Keep the flaw").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".flaw")).to_have_count(before + 1)
    mine = page.locator(".flaw[aria-label*='insect track']")
    expect(mine).to_have_attribute(
        "aria-label", re.compile("insect track, back, 50 ½ in from the left end, ½ in long")
    )
    mine.focus()
    page.keyboard.press("ArrowRight")
    expect(mine).to_have_attribute("aria-label", re.compile("50 ⅝ in from the left end, ½ in long"))
    expect(mine).to_be_focused()
    page.keyboard.press("+")
    expect(mine).to_have_attribute(
        "aria-label", re.compile("50 ⅝ in from the left end, ⁹⁄₁₆ in long")
    )
    expect(mine).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Change this flaw")).to_be_visible()
    mine.focus()
    page.keyboard.press("Delete")
    expect(page.locator(".flaw")).to_have_count(before)
    page.get_by_role("link", name="Lay a bow in it").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="of 100").first).to_be_visible()
    expect(
        page.get_by_text("lies in the handle, where hardly anything bends").first
    ).to_be_visible()


def test_what_is_wrong_with_a_flaw_is_said_beside_its_field(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + STAVE)
    page.locator("#flaw-form [name=at]").fill("120")
    page.locator("#flaw-form [name=depth]").fill("1/4")
    page.get_by_role("button", name="Keep the flaw").click()
    expect(page.get_by_text("This lies off the stave, which is shorter.")).to_be_visible()
    expect(page.locator("#flaw-form [name=at]")).to_have_value("120")


def test_a_photograph_is_kept_and_a_meter_read_beside_the_scale(
    demo: SimpleNamespace, tmp_path: Path
) -> None:
    page: Page = demo.page
    end, letter = tmp_path / "end.png", tmp_path / "letter.png"
    Image.effect_noise((640, 480), 60).convert("RGB").save(end)
    letter.write_text("Dear bowyer,")
    page.goto(demo.address + "/staves/16/")
    page.get_by_text("Add a photograph").click()
    page.get_by_label("Photograph").set_input_files(letter)
    page.get_by_label("What it shows").fill("Right end")
    page.get_by_role("button", name="Keep the photograph").click()
    expect(page.get_by_text("not a photograph that can be read")).to_be_visible()
    expect(page.get_by_label("What it shows")).to_have_value("Right end")
    page.get_by_label("Photograph").set_input_files(end)
    page.get_by_label("Where, from the left end").fill("73 1/2")
    page.get_by_role("button", name="Keep the photograph").click()
    picture = page.get_by_role("img", name="Right end")
    expect(picture).to_be_visible()
    picture.scroll_into_view_if_needed()
    expect(page.locator(".photos img").first).not_to_have_js_property("naturalWidth", 0)
    expect(page.get_by_text("73 ½ in from the left end")).to_be_visible()
    page.get_by_role("button", name="Keep the reading").click()
    expect(page.get_by_text("what the scale says, or the meter, or both")).to_be_visible()
    page.get_by_label("By a meter").fill("8.3")
    page.get_by_role("button", name="Keep the reading").click()
    expect(page.get_by_role("cell", name="8.3 %", exact=True)).to_be_visible()
    page.get_by_role("button", name="Take Right end off the page").click()
    expect(page.get_by_role("img", name="Right end")).to_have_count(0)


def test_the_questions_follow_the_kind_and_keep_what_was_typed(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/staves/new/")
    sapwood, drift, wall = (
        page.get_by_label(name) for name in ("Sapwood", "Grain drifts", "Wall of the culm")
    )
    unfold(page, "How it grew")
    expect(sapwood).to_be_visible()
    expect(wall).to_be_hidden()
    sapwood.fill("1/4")
    unfold(page, "Where from")
    page.get_by_label("Where from").fill("the sawyer")
    for kind, seen, gone in (
        ("board", drift, sapwood),
        ("bamboo culm", wall, drift),
        ("log split", sapwood, wall),
    ):
        page.get_by_label("Kind").select_option(kind)
        expect(seen).to_be_visible()
        expect(gone).to_be_hidden()
    expect(sapwood).to_have_value("1/4")
    expect(page.get_by_label("Where from")).to_have_value("the sawyer")
