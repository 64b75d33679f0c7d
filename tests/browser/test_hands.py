"""Keyboard alone, pointer, phone, a server that stops in the middle, and a screen reader's
needs.
"""

import re
from types import SimpleNamespace

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser.conftest import Server, unfold

SIZES = {"wide": (1280, 800), "phone": (390, 844), "tablet": (1024, 768)}


# Beside the screens that the rooms tell of: what an address, a wait or a step brings to light.
STATES = ("/designs/5/", "/designs/1/walk/?step=8", "/designs/compare/?d=1&d=5", "/builds/17/back/",
          "/builds/pencil/?line=37+at+22")  # fmt: skip


RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
VIEWS = (("wide", "day"), ("phone", "dusk"), ("tablet", "day"))


# What a page's width and colours may break, of what stands otherwise.
BY_LOOKS = (
    "color-contrast", "target-size", "scrollable-region-focusable", "link-in-text-block",
    "button-name", "link-name", "label", "select-name", "aria-hidden-focus", "svg-img-alt",
)  # fmt: skip


# What a finger must be able to hit, and whatever of it is lower than a finger is wide.
TOO_SMALL = """() => {
    const text = ":not([type=hidden]):not([type=checkbox]):not([type=radio])";
    const all = document.querySelectorAll(`main button, main .act, main input${text}, main select`);
    const low = [...all].filter((e) => e.offsetParent && e.getBoundingClientRect().height < 44);
    return low.map((e) => e.outerHTML.slice(0, 90));
}"""


# Words that are cut off by the box they stand in.
CLIPPED = """() => {
    const seen = "main button, main a.act, main label, main h1, main h2, nav a";
    return [...document.querySelectorAll(seen)]
        .filter((e) => e.offsetParent && !e.matches(".visually-hidden, .visually-hidden *"))
        .filter((e) => !e.matches(".named label"))  // read, not seen
        .filter((e) => getComputedStyle(e).overflow !== "visible")
        .filter((e) => e.scrollWidth > e.clientWidth + 1)
        .map((e) => e.outerHTML.slice(0, 90));
}"""


FAULTS = "async (only) => (await axe.run(document, only)).violations"


def unfit(page: Page, rules: tuple[str, ...] = ()) -> list[str]:
    """What a page breaks of WCAG 2.2 AA; of some rules alone where the rest was looked at before,
    on the same page.
    """
    if rules:
        only = {"runOnly": {"type": "rule", "values": rules}, "resultTypes": ["violations"]}
        found = page.evaluate(FAULTS, only)
    else:
        options = {"runOnly": {"type": "tag", "values": RULES}, "resultTypes": ["violations"]}
        found = Axe().run(page, options=options).response["violations"]
    return [f"{v['id']}: {v['nodes'][0]['html'][:150]}" for v in found]


def does_not_reflow(page: Page) -> list[str]:
    """Where a page 320 pixels wide, or with text twice as large, runs out or is cut off; it is left
    so.
    """
    wide = "document.documentElement.scrollWidth"
    page.set_viewport_size({"width": 320, "height": 700})
    page.reload()  # some pictures are laid out by the width that they find
    broken = [] if page.evaluate(wide) <= 321 else ["runs out at 320"]
    page.set_viewport_size({"width": 1280, "height": 800})
    page.evaluate("document.documentElement.style.fontSize = '200%'")
    broken += [] if page.evaluate(wide) <= 1281 else ["runs out with large text"]
    return [*broken, *page.evaluate(CLIPPED)]


def in_theme(page: Page, theme: str) -> None:
    """Read in a theme, on this page."""
    bootstrap = "dark" if theme == "dusk" else "light"
    page.evaluate(
        "([t, b]) => { const s = document.documentElement.dataset; s.theme = t; s.bsTheme = b; }",
        [theme, bootstrap],
    )


@pytest.mark.parametrize("part", range(4))
def test_every_screen_is_fit_for_a_screen_reader_and_for_fingers(
    demo: SimpleNamespace, screens: list[str], part: int
) -> None:
    """Each in full on a wide page; then by its looks and names in the other sizes and themes. In
    none does anything run out of the page, nor on one 320 pixels wide or with text twice as large,
    and everything can be touched.
    """
    broken = []
    for where in [*screens, *STATES, "/staves/999/"][part::4]:
        demo.page.goto(demo.address + where)
        for size, theme in VIEWS:
            width, height = SIZES[size]
            demo.page.set_viewport_size({"width": width, "height": height})
            in_theme(demo.page, theme)
            faults = demo.page.evaluate(TOO_SMALL)
            if size != "tablet":  # it has the wide one's colours
                faults += unfit(demo.page, () if size == "wide" else BY_LOOKS)
            wide = demo.page.evaluate("document.documentElement.scrollWidth")
            broken += [f"{where} {size} {one}" for one in faults]
            broken += [f"{where} {size} is {wide} wide"] if wide > width + 1 else []
        broken += [f"{where} {one}" for one in does_not_reflow(demo.page)]
        if where == "/staves/999/":
            demo.faults.clear()  # the browser reports the missing page itself
    assert not broken, broken


def test_an_empty_shop_is_fit_as_well(empty_shop: Server, page: Page) -> None:
    page.goto(empty_shop.first_link())
    broken = unfit(page)
    page.get_by_label("Your name here").fill("tuva")
    for label in ("Password", "Password again"):
        page.get_by_label(label, exact=True).fill("curlew over the moss")
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_text("How a shop begins")).to_be_visible()
    for size, theme in VIEWS:
        width, height = SIZES[size]
        page.set_viewport_size({"width": width, "height": height})
        for where in ("/", "/staves/", "/designs/", "/builds/", "/shop/", "/builds/new/"):
            page.goto(empty_shop.address + where)
            in_theme(page, theme)
            broken += [f"{where} {one}" for one in unfit(page)]
    page.goto(empty_shop.address + "/away/")
    assert not [*broken, *unfit(page)]


def test_forced_colours_and_reduced_motion_are_heeded(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/designs/1/edit/")
    moves = "getComputedStyle(document.querySelector('select.form-select')).transitionDuration"
    assert page.evaluate(moves) != "0s"
    page.emulate_media(forced_colors="active", reduced_motion="reduce")
    assert page.evaluate(moves) == "0s"
    inked = "getComputedStyle(document.documentElement).getPropertyValue('--ink').trim()"
    assert page.evaluate(inked) == "CanvasText"


def test_a_part_that_is_made_anew_keeps_the_focus(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/staves/18/")
    strike = page.get_by_role("button", name=re.compile("^Strike flaw")).first
    strike.focus()
    page.keyboard.press("Enter")
    page.wait_for_timeout(800)
    assert page.evaluate("document.activeElement !== document.body")
    assert page.evaluate("Boolean(document.activeElement.closest('#flaws'))")


def test_hints_and_charts_are_told_in_words(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/designs/1/edit/")
    untold = page.evaluate(
        """() => [...document.querySelectorAll(".field .hint")].filter((hint) => {
            const field = hint.closest(".field").querySelector("input, select, textarea, fieldset");
            const told = hint.closest(".field").querySelector(`[aria-describedby~="${hint.id}"]`);
            return field && !told;
        }).map((hint) => hint.textContent)"""
    )
    assert not untold
    page.goto(demo.address + "/builds/14/tiller/")
    page.locator("#places > summary").click()
    for name in ("Force–draw curve", "The limbs", "Stiffness and wood off"):
        page.get_by_text(f"{name}, in figures").click()
        table = page.get_by_role("region", name=name)
        expect(table.locator("tbody tr").first).to_be_visible()
        assert re.search(r"\d", table.inner_text())


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
    told = page.get_by_text(re.compile(r"check \d+ of \d+")).first.inner_text()
    first = int(re.findall(r"of (\d+)", told)[0])  # other tests read this bow, too
    one, two = (f"check {first + k} of {{}}" for k in (1, 2))
    # by form: what would tell most stands first, so each figure goes to its own field
    keys.press("n")
    expect(page.locator("#reading-fold input:focus")).to_be_visible()
    figures = {"weight": "36", "draw": "21", "upper_gap": "7 1/4", "lower_gap": "7 1/4"}
    for _ in range(12):
        name = page.evaluate("document.activeElement.name") or ""
        if name.partition("-")[2] in figures:
            keys.type(figures.pop(name.partition("-")[2]))
        if not figures:
            break
        keys.press("Tab")
    keys.press("Enter")
    expect(page.get_by_text(one.format(first + 1))).to_be_visible()
    # by the pencil line, said back first
    keys.press("/")
    keys.type("36 at 21, upper gap 7 1/4, lower 7 3/16")
    keys.press("Enter")
    expect(page.get_by_text("lower limb, at the fade, 7 ³⁄₁₆ in")).to_be_visible()
    keys.press("Enter")
    expect(page.get_by_text(two.format(first + 2))).to_be_visible()
    # back and forth, again, bench view and out
    keys.press("[")
    expect(page.get_by_text(one.format(first + 2))).to_be_visible()
    keys.press("]")
    expect(page.get_by_text(two.format(first + 2))).to_be_visible()
    keys.press(".")
    expect(page.get_by_label(re.compile("Pencil line"))).to_have_value(
        "36 at 21, upper gap 7 1/4, lower 7 3/16"
    )
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
        re.compile(
            r"upper, [\d ⅛¼⅜½⅝¾⅞⁰¹²³⁴⁵⁶⁷⁸⁹⁄₁₆]+ in from the centre · .* wide, .* thick · strain"
            r" 0\.\d\d of 0\.\d\d %"
        )
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
    unfold(page, "Where from")
    page.get_by_label("Notes").fill("one knot")
    page.get_by_label("Kind").select_option("board")
    page.locator("h1").click()
    page.keyboard.press("u")
    expect(page.get_by_label("Length mm")).to_have_value("1791")
    expect(page.get_by_label("Notes")).to_have_value("one knot")
    expect(page.get_by_label("Kind")).to_have_value("board")
    unfold(page, "How it grew")
    expect(page.get_by_label("Grain drifts")).to_be_visible()  # what a board is asked
    page.goto(demo.address + "/builds/14/tiller/")
    expect(page.locator(".tally .huge").nth(1)).to_contain_text("kg")
    page.keyboard.press("u")
    expect(page.locator(".tally .huge").nth(1)).to_contain_text("lb")


def test_units_switch_keeps_what_a_refused_form_holds(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/staves/new/")
    page.get_by_label("Length in").fill("70 1/2")
    unfold(page, "Where from")
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
    expect(page.get_by_label("Length in")).to_have_value(
        "70 1/2"
    )  # there and back: as it was typed
    # a form refused at a place that only takes forms: the page it stands on is shown, with what was
    # typed
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
    page.get_by_text("Outline", exact=True).last.click()
    page.get_by_label("Limb width in").fill("2 1/4")
    page.get_by_label("Limb width in").press("Tab")
    expect(page.locator("#tracks .former-line").first).to_be_attached()
    page.get_by_label("Limb width in").fill("two")
    page.get_by_label("Limb width in").press("Tab")
    expect(page.locator("#result")).to_contain_text("could not be read")


def signed_in_at_the_tiller(server: Server, page: Page) -> None:
    page.goto(server.address)
    page.get_by_label("Username").fill("maren")
    page.get_by_label("Password").fill("heather on the fell")
    page.get_by_role("button", name="Sign in").click()
    page.goto(server.address + "/builds/14/tiller/")
