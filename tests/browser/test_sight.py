"""Photographs in the real interface: a check by picture with a place dragged, and one by taps."""

import re
import unicodedata
from types import SimpleNamespace

import pytest
from playwright.sync_api import Page, expect

from bowyery.units.quantity import IMPERIAL, INCH, LENGTH
from tests.browser.conftest import ROOT

PICTURES = ROOT / "scripts" / "demo" / "pictures"
WIDE = 1800  # pixels of the kept picture


def _taken(page: Page, address: str, number: int) -> None:
    """From the tiller's screen: send a picture, and wait until it was read."""
    page.goto(address + "/builds/14/tiller/")
    page.keyboard.press("f")
    page.wait_for_url(re.compile("/photographed/$"))
    page.locator("#photo_photo").set_input_files(PICTURES / f"{number}.jpg")
    page.get_by_role("button", name="Read the photograph").click()
    page.wait_for_url(re.compile(r"/photographed/\d+/$"))


def _lengths(text: str) -> list[float]:
    """Every length that a text gives in inches (m)."""
    plain = unicodedata.normalize("NFKC", text).replace("⁄", "/")
    return [LENGTH.read(one, IMPERIAL) for one in re.findall(r"\d[\d /]*(?= in\b)", plain)]


def test_a_check_by_photograph_with_a_place_dragged(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    # the demo's own reading of this picture is what the application reads
    page.goto(made_demo.address + "/builds/14/photographed/")
    page.get_by_role("link", name="Drawn on the tree").first.click()
    shipped = page.locator(".sight-figures").inner_text()
    _taken(page, made_demo.address, 4)
    figures = page.locator(".sight-figures")
    # by what is known of the bow now, which its later looks have told more of
    again, before = (_lengths(text) for text in (figures.inner_text(), shipped))
    assert len(again) == len(before) > 0
    assert again == pytest.approx(before, abs=1.01 * INCH / 16)
    assert re.match(r"drawn to\n(20 ¹⁵⁄₁₆|21) in to the grip", shipped)  # it was drawn to 21
    lines = page.locator(".sight-line")
    expect(lines).to_have_count(2)
    ring = page.locator(".knot").nth(3)
    box, before = ring.bounding_box(), lines.first.get_attribute("points")
    assert box
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0], middle[1] + 9, steps=3)
    page.mouse.up()
    expect(ring).to_have_class(re.compile("by-hand"))
    assert lines.first.get_attribute("points") != before
    # the next by keys
    page.locator(".knot").nth(4).focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Shift+ArrowUp")
    moved = page.locator("[name=moved]").input_value()
    assert re.match(r'{"3":\[[\d.]+,[\d.]+\],"4":\[[\d.]+,[\d.]+\]}', moved)
    # a weight no bow has: nothing is lost, and the rings stay where they were put
    page.get_by_label("Weight on the scale").fill("3100")
    page.get_by_role("button", name="Keep it as a check").click()
    expect(page.locator(".wrong .error")).to_be_visible()
    assert page.locator("[name=moved]").input_value() == moved
    expect(page.locator(".knot.by-hand")).to_have_count(2)
    page.get_by_label("Weight on the scale").fill("31")
    page.get_by_role("button", name="Keep it as a check").click()
    page.wait_for_url(re.compile("/tiller/$"))
    expect(page.locator(".notices")).to_contain_text("kept as a check")
    page.locator("#looks summary").click()
    expect(page.locator("#looks td.written").first).to_contain_text(
        re.compile("31 lb at 53[0-4] mm; upper traced")
    )
    page.goto(made_demo.address + "/builds/14/photographed/")
    expect(page.get_by_text("kept as a check")).to_have_count(1)


def test_a_picture_is_read_by_taps(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    _taken(page, made_demo.address, 0)
    # of a string that is no longer on: whatever it cannot tell, it says, and offers the taps
    expect(page.locator("main .notice")).to_contain_text(
        re.compile("the draw is not known|not as long as this bow")
    )
    instead = page.get_by_role("link", name="Tap five places instead")
    if instead.count():
        instead.click()
    rings = page.locator("[data-tap]")
    expect(rings).to_have_count(5)
    # upper nock, upper fade, nocking point, lower fade, lower nock, as they are in this picture
    spots = ((1163, 682), (941, 639), (906, 771), (878, 638), (654, 673))
    svg = page.locator("[data-sight]").bounding_box()
    assert svg
    per = svg["width"] / WIDE
    for number, (x, y) in enumerate(spots):
        ring = rings.nth(number)
        ring.scroll_into_view_if_needed()
        shown = page.locator("[data-sight]").bounding_box()
        box = ring.bounding_box()
        assert shown and box
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(shown["x"] + per * x, shown["y"] + per * y, steps=4)
        page.mouse.up()
    page.get_by_role("button", name="Read it by these five places").click()
    expect(page.locator("main .notice")).to_contain_text("only the shape of the limbs")
    page.get_by_role("button", name="Keep it as a check").click()
    expect(page.locator(".wrong .error")).to_contain_text("read it off the tree")
    page.get_by_label("Draw read on the tree").fill("16")
    page.get_by_role("button", name="Keep it as a check").click()
    page.wait_for_url(re.compile("/tiller/$"))
    expect(page.locator(".notices")).to_contain_text("kept as a check")
    # in the other world its figures stand in millimetres
    page.goto(made_demo.address + "/builds/14/photographed/5/")
    page.locator("[data-key=u]").click()
    expect(page.locator(".sight-figures")).to_contain_text("mm")
    page.locator("[data-key=u]").click()
