"""The tiller's bench in a real browser: by touch, as drawn, offline, on a phone, by keyboard."""

import re
from types import SimpleNamespace

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import Server
from tests.browser.test_hands import signed_in_at_the_tiller

TILLER, LOG = "/builds/14/tiller/", "/builds/14/log/"


def stretch(page: Page, limb: str, start: str) -> object:
    return page.locator(f'.touch[data-limb="{limb}"][data-start="{start}"]')


def written(page: Page) -> str:
    """What the page says was written down."""
    note = page.locator(".notices .notice").first
    expect(note).to_be_visible()
    return note.inner_text()


def test_a_check_by_touch_alone(own_demo: Server, page: Page) -> None:
    """Marks on the limb, pulls counted, wood as drawn: nothing is typed."""
    signed_in_at_the_tiller(own_demo, page)
    page.get_by_role("button", name="hinge").click()
    expect(page.locator("#strip")).to_contain_text("Press a stretch of the limb first")
    stretch(page, "upper", "24").click()
    expect(page.locator("[data-chosen]")).to_have_text("upper, 24 to 28:")
    expect(page.locator("#strip")).to_contain_text("of what lasts")
    page.get_by_role("button", name="hinge").click()
    assert written(page) == "Written down: hinge upper 24 to 28"
    expect(page.locator("svg.bench-picture")).to_contain_text("leave alone")
    # two stretches by dragging over them
    first, last = (stretch(page, "lower", at).bounding_box() for at in ("8", "12"))
    page.mouse.move(first["x"] + 8, first["y"] + 30)
    page.mouse.down()
    page.mouse.move(last["x"] + 8, last["y"] + 30, steps=6)
    page.mouse.up()
    expect(page.locator("[data-chosen]")).to_have_text("lower, 8 to 16:")
    page.get_by_role("button", name="good", exact=True).click()
    expect(page.get_by_text("Written down: good lower 8 to 16")).to_be_visible()
    page.get_by_role("button", name="lower bends less").click()
    expect(page.get_by_text("Written down: lower bends less")).to_be_visible()
    # the wood as it is drawn, then pulls counted by touch
    counts = page.locator("text.stroke-count").all_text_contents()
    page.get_by_role("button", name=re.compile("Done as drawn")).click()
    expect(page.get_by_text(re.compile("Written down: off "))).to_be_visible()
    line = page.locator(".notices").inner_text()
    assert sorted(re.findall(r"(\d+) strokes?", line)) == sorted(counts)
    expect(page.locator(".next-box")).to_contain_text("25 short pulls")
    for _ in range(4):
        page.get_by_role("button", name=re.compile("^count one")).click()
    page.get_by_role("button", name=re.compile("keep 4 pulls")).click()
    expect(page.locator(".next-box")).to_contain_text("21 short pulls")


def test_a_panel_opened_before_the_scripts_are_at_hand_stays(own_demo: Server, page: Page) -> None:
    """Another page kept something meanwhile, so that this one would be made anew."""
    signed_in_at_the_tiller(own_demo, page)
    page.evaluate(  # it fetches by itself, past the route
        "navigator.serviceWorker.getRegistrations()"
        ".then((found) => Promise.all(found.map((one) => one.unregister())))"
    )
    held: list[Route] = []
    page.route("**/js/bench*", lambda route: held.append(route))
    page.goto(own_demo.address + TILLER, wait_until="commit")
    expect(page.locator("[data-key=r]")).to_be_visible()
    page.keyboard.press("r")
    strokes = page.locator("#id_removal-strokes")
    expect(strokes).to_be_visible()
    assert held
    page.evaluate("localStorage.setItem('fellwind-kept', String(Date.now() + 600000))")
    page.evaluate("window.same = true")
    for one in held:
        one.continue_()
    page.unroute("**/js/bench*")
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(500)
    expect(strokes).to_be_visible()
    assert page.evaluate("window.same")
    page.locator("summary", has_text="Done otherwise").click()  # shut again, it may be
    with page.expect_navigation():
        page.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
    assert not page.evaluate("window.same")


def test_a_key_pressed_before_its_place_has_come_is_not_lost(own_demo: Server, page: Page) -> None:
    """A long page shows its head while its foot is still on the way."""
    signed_in_at_the_tiller(own_demo, page)
    page.evaluate(
        """() => {
            const place = document.querySelector('[data-key=r]'), fold = place.parentElement;
            Object.defineProperty(document, 'readyState', {value: 'loading', configurable: true});
            place.remove();
            for (const key of ['q', 'r']) {
                document.body.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}));
            }
            fold.prepend(place);
            document.dispatchEvent(new Event('DOMContentLoaded'));
        }"""
    )
    expect(page.locator("#id_removal-strokes")).to_be_visible()
    expect(page.locator("#removal-fold :focus")).to_have_count(1)


def test_a_removal_done_otherwise_an_act_and_undoing_both(own_demo: Server, page: Page) -> None:
    signed_in_at_the_tiller(own_demo, page)
    picture = page.locator("svg.bench-picture")
    page.keyboard.press("r")
    expect(picture).to_be_in_viewport()  # beside the form
    page.locator("#id_removal-strokes").fill("12")
    page.locator("#id_removal-tool").fill("file")
    page.get_by_role("button", name="Keep the removal").click()
    expect(page.get_by_text("Written down: off upper 12 strokes with file")).to_be_visible()
    weight = page.locator(".idle .big").first.inner_text()
    page.keyboard.press("a")
    expect(page.get_by_label("to a colour")).to_be_hidden()
    page.get_by_label("What was done").select_option("heat")
    expect(page.get_by_label("to a colour")).to_be_visible()
    expect(page.locator("[data-care]")).to_contain_text("Heat and open fire")
    page.get_by_label("What was done").select_option("cut")
    page.locator("#id_done-length").fill("16")
    page.get_by_role("button", name="Keep what was done").click()
    expect(page.locator("#done-fold .error").first).to_contain_text("less than half of a limb")
    page.locator("#id_done-length").fill("1")
    page.get_by_role("button", name="Keep what was done").click()
    expect(page.get_by_text("Written down: cut 1 in both ends")).to_be_visible()
    expect(page.locator(".bench-tally .warn").last).to_contain_text("Measure the centre anew")
    now = page.locator(".idle .big").first.inner_text()
    assert float(now.split()[0]) > float(weight.split()[0])
    page.keyboard.press("z")
    expect(page.get_by_text("It counts no more: cut 1 in both ends")).to_be_visible()
    expect(page.locator(".idle .big").first).to_have_text(weight)
    page.locator("#looks > summary").click()
    expect(page.locator(".strip-of-checks li")).to_have_count(5)
    page.get_by_role("button", name="put it back").first.click()
    expect(page.get_by_text("It counts again: cut 1 in both ends")).to_be_visible()
    expect(page.locator(".idle .big").first).to_have_text(now)
    page.locator("#ways > summary").click()
    expect(page.get_by_text("What it costs")).to_be_visible()
    page.locator("#looks > summary").click()
    page.get_by_role("button", name="advice without it").first.click()
    expect(page.locator("#without")).to_contain_text("With it:")


def test_a_reading_stands_beside_the_picture_and_lights_its_place(
    own_demo: Server, page: Page
) -> None:
    signed_in_at_the_tiller(own_demo, page)
    page.keyboard.press("n")
    expect(page.locator("svg.bench-picture")).to_be_in_viewport()
    lit = page.locator("svg.bench-picture .lit")
    page.get_by_label("Upper, under a straight edge", exact=True).fill("3/32 at 16")
    expect(lit).to_have_attribute("visibility", "visible")
    at = float(lit.get_attribute("x1") or 0)
    page.get_by_label("Upper, under a straight edge", exact=True).fill("3/32 at 24")
    expect(lit).not_to_have_attribute("x1", str(at))
    assert float(lit.get_attribute("x1") or 0) > at
    # a whole run, one press a mark
    page.get_by_label("Upper, under a straight edge", exact=True).fill("")
    page.locator(".rest > summary").click()
    page.locator(".edge-run > summary").click()
    for mark, gap in (("9", "1/16"), ("12", "3/32"), ("15", "1/8")):
        row = page.get_by_role("radiogroup", name=f"upper, {mark} from the centre")
        row.get_by_text(gap, exact=True).click()
    page.locator(".edge-run").get_by_role("button", name="Keep the reading").click()
    expect(
        page.get_by_text(re.compile("Written down: upper edge 1/16 in at 9 in;"))
    ).to_be_visible()


def test_it_is_worked_by_keyboard_alone(own_demo: Server, page: Page) -> None:
    signed_in_at_the_tiller(own_demo, page)
    stretch(page, "upper", "12").focus()
    expect(page.locator("#strip")).to_contain_text("upper limb, 12 to 16 in")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="stiff", exact=True)).to_be_focused()
    stretch(page, "upper", "12").focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("[data-chosen]")).to_have_text("upper, 12 to 20:")
    page.keyboard.press("ArrowRight")
    expect(stretch(page, "upper", "20")).to_be_focused()
    page.get_by_role("button", name="stiff", exact=True).press("Enter")
    expect(page.get_by_text("Written down: stiff upper 12 to 20")).to_be_visible()
    page.keyboard.press("d")
    expect(page.get_by_text(re.compile("Written down: off "))).to_be_visible()
    page.keyboard.press("p")
    expect(page.get_by_text("Written down: 25 pulls")).to_be_visible()
    page.get_by_label("Tool in hand").select_option("rasp")
    expect(page.get_by_label("Tool in hand")).to_have_value("rasp")
    page.keyboard.press("b")
    expect(page.locator(".bench-then")).to_be_visible()


def test_on_a_phone_one_limb_at_a_time_and_nothing_cut_off(own_demo: Server, page: Page) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    signed_in_at_the_tiller(own_demo, page)
    drawing = page.locator(".bench-drawing")
    expect(page.get_by_role("button", name="upper limb", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    tip, fade = stretch(page, "upper", "28"), stretch(page, "upper", "4")
    for one in (tip, fade):
        box, frame = one.bounding_box(), drawing.bounding_box()
        assert box["x"] >= frame["x"] - 1
        assert box["x"] + box["width"] <= frame["x"] + frame["width"] + 1
        assert box["width"] > 24
    page.get_by_role("button", name="lower limb", exact=True).click()
    box, frame = stretch(page, "lower", "28").bounding_box(), drawing.bounding_box()
    assert frame["x"] - 1 <= box["x"] and box["x"] + box["width"] <= frame["x"] + frame["width"] + 1
    stretch(page, "lower", "12").click()
    page.get_by_role("button", name="good", exact=True).click()
    expect(page.get_by_text("Written down: good lower 12 to 16")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") == 390
    small = page.evaluate(
        """() => [...document.querySelectorAll('svg.bench-picture text')].map((t) =>
            t.getBoundingClientRect().height).filter((h) => h > 0 && h < 12).length"""
    )
    assert small == 0
    page.set_viewport_size({"width": 1280, "height": 800})
    expect(page.get_by_role("button", name="upper limb", exact=True)).to_be_hidden()
    page.goto(own_demo.address + TILLER)
    # what matters fits without scrolling
    for one in (".bench-picture", ".see", ".limits", ".next-box", ".pulls"):
        box = page.locator(one).bounding_box()
        assert box["y"] + box["height"] <= 800, one


@pytest.mark.parametrize("theme", ["day", "dusk"])
def test_open_panels_stand_axes_rules(demo: SimpleNamespace, theme: str) -> None:
    page: Page = demo.page
    page.goto(demo.address + TILLER)
    if theme == "dusk":
        page.get_by_role("button", name="dusk").click()
        page.goto(demo.address + TILLER)
    page.evaluate(
        """for (const one of document.querySelectorAll('main details')) {
            one.removeAttribute('name'); one.open = true; }"""
    )
    page.locator(".strip-of-checks").wait_for()
    found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]})
    assert not found.response["violations"], [v["id"] for v in found.response["violations"]]


def test_touches_wait_while_the_shop_is_away_and_come_in_order(
    own_demo: Server, page: Page
) -> None:
    """Marks, wood and pulls by touch with the server gone; each once, in the order of the hands."""
    signed_in_at_the_tiller(own_demo, page)
    drawn = page.locator('form[action$="/drawn/"] input[name=line]').input_value()
    own_demo.stop()
    unsent = page.locator("#unsent")
    stretch(page, "upper", "24").click()
    page.get_by_role("button", name="weak", exact=True).click()
    expect(unsent).to_contain_text("1 entry waits here")
    expect(unsent).to_contain_text("weak")
    page.get_by_role("button", name=re.compile("Done as drawn")).click()
    expect(unsent).to_contain_text("2 entries wait here")
    for _ in range(3):
        page.get_by_role("button", name=re.compile("^count one")).click()
    page.get_by_role("button", name=re.compile("keep 3 pulls")).click()
    expect(unsent).to_contain_text("3 entries wait here")
    own_demo.start()
    expect(unsent).to_be_hidden()
    page.wait_for_load_state()
    page.goto(own_demo.address + LOG)
    opened = "document.querySelectorAll('.written details').forEach((d) => { d.open = true; })"
    page.evaluate(opened)
    rows = page.locator("table.log td.written").all_inner_texts()[-3:]
    assert [rows[0], rows[1].splitlines()[-1], rows[2]] == ["weak upper 24 to 28", drawn, "3 pulls"]


def test_two_tablets_at_one_bow(own_demo: Server, page: Page) -> None:
    """Both see what the other wrote once they look; an undo of what was undone is answered."""
    signed_in_at_the_tiller(own_demo, page)
    other = page.context.new_page()
    other.goto(own_demo.address + TILLER)
    stretch(page, "upper", "8").click()
    page.get_by_role("button", name="stiff", exact=True).click()
    expect(page.get_by_text("Written down: stiff upper 8 to 12")).to_be_visible()
    stretch(other, "upper", "8").click()
    other.get_by_role("button", name="hinge").click()
    expect(other.get_by_text("Written down: hinge upper 8 to 12")).to_be_visible()
    expect(other.locator("svg.bench-picture text.eye-weak-word")).to_have_text("hinge")
    page.goto(own_demo.address + TILLER)
    other.reload()
    page.keyboard.press("z")
    expect(page.get_by_text("It counts no more: hinge upper 8 to 12")).to_be_visible()
    other.keyboard.press("z")
    expect(other.get_by_text("changed already")).to_be_visible()
