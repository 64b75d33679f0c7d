"""Keyboard alone, pointer, phone, a server that stops in the middle, and a screen reader's needs."""

import re
from types import SimpleNamespace

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser.conftest import Server

SCREENS = {
    "today": "/", "staves": "/staves/", "stave": "/staves/18/", "stave form": "/staves/new/", "fit": "/staves/14/fit/", "designs": "/designs/",
    "design": "/designs/1/", "design form": "/designs/1/edit/", "marks": "/designs/1/marks/",
    "layered design": "/designs/5/", "layouts": "/designs/layouts/", "walk": "/designs/1/walk/?step=8", "compare": "/designs/compare/?d=1&d=5", "sweep": "/designs/1/sweep/",
    "bow file": "/designs/import/", "builds": "/builds/", "start": "/builds/new/",
    "wood": "/builds/14/wood/", "rough": "/builds/14/rough/", "back with a wait": "/builds/17/back/", "tiller": "/builds/14/tiller/",
    "bench": "/builds/14/tiller/bench/", "strings": "/builds/13/strings/", "finish": "/builds/13/finish/",
    "proof": "/builds/13/proof/", "log": "/builds/14/log/", "read back": "/builds/pencil/?line=37+at+22",
    "shop": "/shop/", "materials": "/shop/materials/", "archer": "/shop/archers/1/", "gear": "/shop/gear/1/",
    "not here": "/staves/999/",
}  # fmt: skip
SIZES = {"wide": (1280, 800), "phone": (390, 844), "tablet": (1024, 768)}


@pytest.mark.parametrize("name", SCREENS)
def test_every_screen_is_fit_for_a_screen_reader(demo: SimpleNamespace, name: str) -> None:
    demo.page.goto(demo.address + SCREENS[name])
    found = Axe().run(demo.page)
    broken = [f"{v['id']}: {v['nodes'][0]['html'][:150]}" for v in found.response["violations"]]
    assert not broken, broken
    if name == "not here":
        demo.faults.clear()  # the browser reports the missing page itself


@pytest.mark.parametrize("theme", ["dusk", "day"])
def test_contrast_holds_in_both_themes(demo: SimpleNamespace, theme: str) -> None:
    demo.page.get_by_role("button", name=re.compile("^(dusk|day)$")).click()
    demo.page.wait_for_load_state()
    for name in ("today", "tiller", "design", "strings", "stave"):
        demo.page.goto(demo.address + SCREENS[name])
        found = Axe().run(demo.page, options={"runOnly": ["color-contrast"]})
        assert not found.response["violations"], (name, found.response["violations"][0]["nodes"][0]["html"])


@pytest.mark.parametrize("size", SIZES)
def test_nothing_runs_out_of_the_page_and_everything_can_be_touched(demo: SimpleNamespace, size: str) -> None:
    width, height = SIZES[size]
    demo.page.set_viewport_size({"width": width, "height": height})
    for name, path in SCREENS.items():
        if name == "not here":
            continue
        demo.page.goto(demo.address + path)
        wide = demo.page.evaluate("document.documentElement.scrollWidth")
        assert wide <= width + 1, (name, wide)
        small = demo.page.evaluate(
            """() => [...document.querySelectorAll("main button, main .act, main input:not([type=hidden]):not([type=checkbox]):not([type=radio]), main select")]
                .filter((e) => e.offsetParent && e.getBoundingClientRect().height < 44).map((e) => e.outerHTML.slice(0, 90))"""
        )
        assert not small, (name, small)


def test_a_tiller_check_with_the_keyboard_alone(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    keys = page.keyboard
    page.goto(demo.address + "/builds/")
    page.locator("body").press("Tab")
    for _ in range(60):
        if page.evaluate("document.activeElement.textContent").startswith("Number 14"):
            break
        keys.press("Tab")
    keys.press("Enter")
    page.wait_for_url("**/builds/14/tiller/")
    expect(page.get_by_text("check 5 of 5")).to_be_visible()
    # by form
    keys.press("n")
    expect(page.get_by_label("Weight on the scale lb")).to_be_focused()
    for figure in ("36", "21", "7 1/4", "7 1/4"):
        keys.type(figure)
        keys.press("Tab")
    keys.press("Enter")
    expect(page.get_by_text("check 6 of 6")).to_be_visible()
    # by the pencil line, said back first
    keys.press("/")
    keys.type("36 at 21, upper gap 7 1/4, lower 7 3/16")
    keys.press("Enter")
    expect(page.get_by_text("at the lower fade 7 ³⁄₁₆ in")).to_be_visible()
    keys.press("Enter")
    expect(page.get_by_text("check 7 of 7")).to_be_visible()
    # back and forth, again, bench view and out
    keys.press("[")
    expect(page.get_by_text("check 6 of 7")).to_be_visible()
    keys.press("]")
    expect(page.get_by_text("check 7 of 7")).to_be_visible()
    keys.press(".")
    expect(page.get_by_label(re.compile("Pencil line"))).to_have_value("36 at 21, upper gap 7 1/4, lower 7 3/16")
    keys.press("Escape")
    keys.press("b")
    page.wait_for_url("**/bench/")
    keys.press("Escape")
    page.wait_for_url("**/tiller/")
    for digit, stage in (("1", "wood"), ("8", "proof"), ("5", "tiller")):
        keys.press(digit)
        page.wait_for_url(f"**/builds/14/{stage}/")
    keys.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("pencil line")
    keys.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()


def test_a_line_that_cannot_be_read_is_answered_beside_it(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/builds/14/tiller/")
    page.keyboard.press("/")
    page.keyboard.type("37 at tea time")
    page.keyboard.press("Enter")
    expect(page.locator("#read-back")).to_contain_text("could not be read")
    expect(page.get_by_label(re.compile("Pencil line"))).to_have_value("37 at tea time")


def test_the_hairline_reads_all_tracks_by_pointer_and_by_arrow(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/designs/1/")
    ruler = page.locator("[data-ruler]")
    strip = ruler.locator(".strip")
    box = ruler.locator("svg").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + 100)
    expect(strip).to_have_text(
        re.compile(r"upper, [\d ⅛¼⅜½⅝¾⅞⁰¹²³⁴⁵⁶⁷⁸⁹⁄₁₆]+ in from the centre · .* wide, .* thick · strain 0\.\d\d of 0\.\d\d %")
    )
    page.mouse.move(box["x"] + box["width"] * 0.3, box["y"] + 100)
    expect(strip).to_have_text(re.compile("^lower, "))
    before = strip.text_content()
    ruler.focus()
    page.keyboard.press("ArrowRight")
    expect(strip).not_to_have_text(before or "")
    assert ruler.locator(".hairline").get_attribute("visibility") == "visible"


def test_units_switch_everywhere_and_lose_nothing_half_typed(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/staves/new/")
    page.get_by_label("Length in").fill("70 1/2")
    page.get_by_label("Notes").fill("one knot")
    page.get_by_label("Kind").select_option("board")
    page.locator("h1").click()
    page.keyboard.press("u")
    expect(page.get_by_label("Length mm")).to_have_value("1791")
    expect(page.get_by_label("Notes")).to_have_value("one knot")
    expect(page.get_by_label("Kind")).to_have_value("board")
    expect(page.get_by_label("Grain drifts")).to_be_visible()  # what a board is asked
    page.goto(demo.address + "/builds/14/tiller/")
    expect(page.locator(".tally .huge").nth(1)).to_contain_text("kg")
    page.keyboard.press("u")
    expect(page.locator(".tally .huge").nth(1)).to_contain_text("lb")


def test_units_switch_keeps_what_a_refused_form_holds(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/staves/new/")
    page.get_by_label("Length in").fill("70 1/2")
    page.get_by_label("Notes").fill("one knot")
    page.get_by_label("Width in", exact=True).fill("two")
    page.get_by_role("button", name="Keep the stave").click()
    expect(page.get_by_text("could not be read")).to_be_visible()
    demo.faults.clear()  # the browser reports the refusal itself
    page.locator("h1").click()
    page.keyboard.press("u")
    expect(page.get_by_label("Length mm")).to_have_value("1791")
    expect(page.get_by_label("Width mm", exact=True)).to_have_value("two")
    expect(page.get_by_label("Notes")).to_have_value("one knot")
    page.keyboard.press("Escape")
    page.locator("h1").click()
    page.keyboard.press("u")
    expect(page.get_by_label("Length in")).to_have_value("70 1/2")  # there and back: as it was typed
    # a form refused at a place that only takes forms: the page it stands on is shown, with what was typed
    page.goto(demo.address + "/builds/17/back/")
    page.locator("[name=what]").fill("the sinew")
    page.get_by_label("Until").fill("2020-01-01T08:00")
    page.get_by_role("button", name="Hang it from the string").click()
    expect(page.locator(".error").first).to_be_visible()
    page.locator("h1").click()
    page.keyboard.press("u")
    expect(page.locator("[name=what]")).to_have_value("the sinew")
    expect(page.get_by_role("navigation", name="Stages")).to_be_visible()


def test_a_design_answers_while_it_is_changed(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/designs/1/edit/")
    page.get_by_label("Limb width in").fill("2 1/4")
    page.get_by_label("Limb width in").press("Tab")
    expect(page.locator("#result .former-line").first).to_be_attached(timeout=15000)
    page.get_by_label("Limb width in").fill("two")
    page.get_by_label("Limb width in").press("Tab")
    expect(page.locator("#result")).to_contain_text("could not be read", timeout=15000)


def test_an_entry_waits_in_the_browser_until_the_server_answers(empty_shop: Server, page: Page) -> None:
    """The server is killed in the middle; the reading goes when it is back, once."""
    empty_shop.manage("load_demo")
    empty_shop.manage("shell", "-c", "from fellwind.workshop.models import Person as P; p = P.objects.get(username='maren');"
                      "p.set_password('heather on the fell'); p.save()")  # fmt: skip
    page.goto(empty_shop.address)
    page.get_by_label("Username").fill("maren")
    page.get_by_label("Password").fill("heather on the fell")
    page.get_by_role("button", name="Sign in").click()
    page.goto(empty_shop.address + "/builds/14/tiller/")
    page.keyboard.press("n")
    page.get_by_label("Weight on the scale lb").fill("37")
    page.get_by_label("at a draw of in").fill("21 1/2")
    empty_shop.stop()
    page.get_by_role("button", name="Keep the reading").click()
    expect(page.locator("#unsent")).to_contain_text("1 entry waits here")
    empty_shop.start()
    page.goto(empty_shop.address + "/builds/14/tiller/")
    expect(page.get_by_text("check 6 of 6")).to_be_visible(timeout=20000)
    expect(page.locator("#unsent")).to_be_hidden()
    page.goto(empty_shop.address + "/builds/14/log/")
    expect(page.locator("table.log").get_by_text("37 lb at 21 1/2 in")).to_have_count(1)
