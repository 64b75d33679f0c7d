"""Practice as it is done: a lesson by pointer, free bows by keyboard to a break and to a finish."""

import re
from types import SimpleNamespace

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

PRACTICE = "/practice/"


def begin_lesson(demo: SimpleNamespace, title: str) -> Page:
    page: Page = demo.page
    page.goto(demo.address + PRACTICE)
    page.get_by_role("button", name=re.compile(f": {title}$")).click()
    expect(page.locator("#practice-picture path.stave-limb").first).to_be_visible()
    return page


def log(page: Page):  # type: ignore[no-untyped-def]
    return page.locator(".practice-log li")


def shape(page: Page) -> str:
    return page.locator("#practice-picture path.stave-limb").first.get_attribute("d") or ""


def drag_rope(page: Page, down: int) -> None:
    box = page.locator(".rope-hook").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    before = shape(page)
    page.mouse.move(x, y + down, steps=12)
    assert shape(page) != before  # it bends while it is pulled
    page.mouse.up()


def place_on_limb(page: Page, limb: int, node: int) -> tuple[float, float]:
    """Where a node of a limb is on the screen, off the picture's own data."""
    found = page.evaluate(
        """([limb, node]) => {
            const d = JSON.parse(document.getElementById('practice-data').textContent);
            const svg = document.getElementById('practice-picture');
            const path = svg.querySelectorAll('path.stave-limb')[limb];
            const at = path.getPointAtLength(path.getTotalLength() / 2 * node);
            const p = at.matrixTransform(svg.getScreenCTM());
            return [p.x, p.y];
        }""",
        [limb, node],
    )
    return found[0], found[1]


def test_a_lesson_by_pointer(demo: SimpleNamespace) -> None:
    """The stiff place: rope dragged, edge read, a stretch dragged on the limb, and marked."""
    page = begin_lesson(demo, "Find the stiff place")
    expect(page.locator("#measure")).to_have_text("Nothing is marked yet.")
    drag_rope(page, 120)
    expect(log(page)).to_have_count(1)
    expect(page.locator("#practice-words")).to_contain_text("held at")
    page.get_by_role("button", name="edge along").click()
    expect(log(page)).to_have_count(2)
    expect(log(page).first).to_contain_text("Upper limb, gap under the edge:")
    # a place that is not it
    page.evaluate("window.scrollTo(0, 0)")
    for share, words in ((0.25, "not that place"), (0.52, "Found")):
        a, b = place_on_limb(page, 0, share - 0.05), place_on_limb(page, 0, share + 0.1)
        page.mouse.move(*a)
        page.mouse.down()
        page.mouse.move(*b, steps=6)
        page.mouse.up()
        assert page.locator("#id_limb").input_value() == "upper"
        assert float(page.locator("#id_start").input_value()) > 4
        page.get_by_role("button", name="stiff", exact=True).click()
        expect(page.locator("#measure")).to_contain_text(words)
        if share < 0.5:  # wiped off by another word over it
            page.get_by_role("button", name="good", exact=True).click()
            expect(page.locator("#measure")).to_contain_text("Nothing is marked")
    page.get_by_role("button", name="Let down").click()
    expect(page.locator("#practice-words")).to_contain_text("let down")
    page.reload()
    expect(page.locator("#measure")).to_contain_text("Found")
    expect(page.locator("#practice-picture .chalk-stiff")).to_have_count(1)
    page.goto(demo.address + PRACTICE)
    row = page.locator(".lessons li").filter(has_text="Find the stiff place")
    expect(row).to_contain_text("seen")


def free_stave(demo: SimpleNamespace, trouble: str, seed: int) -> Page:
    page: Page = demo.page
    page.goto(demo.address + PRACTICE)
    page.get_by_label("Bow", exact=True).select_option("flatbow")
    page.get_by_label("Wood", exact=True).select_option("rowan")
    page.get_by_label("Trouble").select_option(trouble)
    page.get_by_label("Seed").fill(str(seed))
    page.get_by_role("button", name="Put it on the tree").press("Enter")
    expect(page.locator("#rope")).to_have_attribute("role", "slider")
    return page


def by_keys(page: Page, name: str, value: str, button: str) -> None:
    """A figure typed, and Enter pressed in its field."""
    before = log(page).count()
    field = page.locator(f"#id_{name}")
    field.focus()
    field.fill(value)
    page.get_by_role("button", name=button, exact=True).press("Enter")
    expect(log(page)).to_have_count(before + 1)


def test_a_free_bow_by_keyboard_to_a_break(demo: SimpleNamespace) -> None:
    page = free_stave(demo, "hinge", 23)
    rope = page.locator("#rope")
    rope.focus()
    for _ in range(14):
        page.keyboard.press("ArrowDown")
    expect(rope).to_have_attribute("aria-valuetext", re.compile(r"in, \d+\.\d lb"))
    page.keyboard.press("Enter")
    expect(log(page)).to_have_count(1)
    expect(rope).to_be_focused()
    for key, shows in (("s", "lb at"), ("l", "gap under the edge"), ("d", "let down")):
        page.keyboard.press(key)
        expect(log(page).first).to_contain_text(shows)
    by_keys(page, "strokes", "60", "Take off")
    page.keyboard.press("Escape")
    page.keyboard.press("e")
    expect(log(page).first).to_contain_text("25 short pulls")
    page.locator("summary", has_text="String, saw, heat, time").press("Enter")
    page.get_by_label("String", exact=True).select_option("full")
    page.get_by_role("button", name="String it").press("Enter")
    expect(page.locator("#practice-words")).to_contain_text("At full brace")
    rope.focus()
    words = page.locator("#practice-words")
    for _ in range(60):
        if "broken" in words.inner_text():
            break
        page.keyboard.press("PageDown")
    expect(words).to_contain_text("It is broken: the upper limb")
    expect(page.locator("#practice-picture .splinter")).to_have_count(1)
    page.get_by_role("link", name="Look at the debrief").press("Enter")
    expect(page.get_by_role("heading", name="What would have helped most")).to_be_visible()
    expect(page.locator(".helped")).to_contain_text("the upper limb")
    page.keyboard.press(",")
    expect(page.locator("#film")).to_contain_text(re.compile(r"\d+ of \d+: full brace|pulled"))


def test_a_free_bow_by_keyboard_to_a_finish(demo: SimpleNamespace) -> None:
    """Read, asked, done as told, a few times over; then finished."""
    page = free_stave(demo, "clear", 5)
    for draw in ("14", "16"):
        by_keys(page, "draw", draw, "Pull")
        for key in ("s", "l", "t"):
            before = log(page).count()
            page.keyboard.press("Escape")
            page.keyboard.press(key)
            expect(log(page)).to_have_count(before + 1)
        page.keyboard.press("a")
        told = re.compile("strokes|brace it|pull further")
        expect(page.locator(".advice-box")).to_contain_text(told)
        page.keyboard.press("d")
        expect(page.locator("#practice-words")).to_contain_text("let down")
        by_keys(page, "strokes", "25", "Take off")
        by_keys(page, "pulls", "25", "Exercise e")
    page.get_by_role("button", name="Finish").press("Enter")
    page.get_by_role("link", name="Look at the debrief").press("Enter")
    expect(page.locator(".practice-figures")).to_contain_text("of the limbs within 12 %")
    page.get_by_role("button", name=re.compile("Let the plain rule")).press("Enter")
    expect(page.locator("#others table")).to_contain_text("the plain rule")


def test_pulling_asks_nobody(demo: SimpleNamespace) -> None:
    """Every key bends the limbs at once, within its own event and without a request; the shop
    hears of it once, when the rope rests.
    """
    page = begin_lesson(demo, "The weight you must not pull")
    asked: list[str] = []
    page.on("request", lambda one: PRACTICE in one.url and asked.append(one.url))
    moved = page.evaluate(
        """() => {
            const rope = document.getElementById('rope');
            const limb = () => document.querySelector('path.stave-limb').getAttribute('d');
            rope.focus();
            let moved = 0;
            for (let k = 0; k < 20; k += 1) {
                const before = limb();
                rope.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowDown', bubbles: true}));
                moved += limb() !== before;
            }
            return moved;
        }"""
    )
    assert moved == 20 and not asked
    page.keyboard.press("Home")  # and let down again: one act for the whole of it
    expect(log(page)).to_have_count(1)
    expect(page.locator("#practice-words")).to_contain_text("let down")


def test_the_picture_is_never_empty(demo: SimpleNamespace) -> None:
    """What the shop sends is drawn before anything else happens in the page."""
    page = begin_lesson(demo, "Upper and lower")
    page.evaluate(
        """() => {
            window.seen = [];
            const limbs = () => document.querySelectorAll('path.stave-limb').length;
            const look = () => window.seen.push(limbs());
            new MutationObserver(look).observe(document.querySelector('main'), {childList: true});
        }"""
    )
    by_keys(page, "draw", "14", "Pull")
    by_keys(page, "seconds", "5", "Hold on")
    seen = page.evaluate("window.seen")
    assert len(seen) >= 2 and set(seen) == {2}


def test_readings_asked_for_at_once_are_all_taken(demo: SimpleNamespace) -> None:
    """Keys pressed faster than the shop answers."""
    page = begin_lesson(demo, "Upper and lower")
    by_keys(page, "draw", "14", "Pull")
    page.keyboard.press("Escape")
    for key in "stld":
        page.keyboard.press(key)
    expect(log(page)).to_have_count(5)
    expect(log(page).first).to_contain_text("let down")
    expect(page.locator("#practice-fault")).to_have_count(0)
    # what was refused is not followed by what was meant after it
    page.evaluate(
        """() => {
            for (const what of ['read:weight', 'read:gaps']) {
                document.querySelector(`#tree button[value="${what}"]`).click();
            }
        }"""
    )
    expect(page.locator("#practice-fault")).to_contain_text("scale shows nothing")
    expect(log(page)).to_have_count(5)


def test_strokes_are_counted_as_they_are_rubbed(demo: SimpleNamespace) -> None:
    page = begin_lesson(demo, "Too light: what now")
    page.evaluate("window.scrollTo(0, 0)")
    a, b = place_on_limb(page, 0, 0.3), place_on_limb(page, 0, 0.5)
    page.mouse.move(*a)
    page.mouse.down()
    for _ in range(3):
        page.mouse.move(*b, steps=5)
        page.mouse.move(*a, steps=5)
    page.mouse.up()
    assert page.locator("#id_strokes").input_value() == "6"
    page.get_by_role("button", name="Take off").click()
    expect(log(page).first).to_contain_text("6 strokes with the scraper: upper limb")


def test_two_tabs_on_one_session(demo: SimpleNamespace) -> None:
    page = begin_lesson(demo, "Upper and lower")
    other = page.context.new_page()
    other.goto(page.url)
    by_keys(page, "draw", "14", "Pull")
    other.locator("#id_strokes").fill("20")
    other.get_by_role("button", name="Take off").click()
    expect(other.locator("#practice-fault")).to_contain_text("Another page went on")
    expect(other.locator("#practice-words")).to_contain_text("held at 14 in")
    other.keyboard.press("s")
    expect(log(other)).to_have_count(2)
    other.close()


def test_sound_is_off_until_it_is_wanted(demo: SimpleNamespace) -> None:
    page = begin_lesson(demo, "Don't look too soon")
    sound = page.get_by_role("button", name=re.compile("^sound"))
    expect(sound).to_have_text("sound: off")
    sound.click()
    expect(sound).to_have_attribute("aria-pressed", "true")
    page.reload()
    expect(page.get_by_role("button", name="sound: on")).to_be_visible()
    page.get_by_role("button", name="sound: on").click()


@pytest.mark.parametrize("where", ["", "tree", "debrief", "record/"])
def test_practice_stands_axes_rules_and_fits_a_phone(demo: SimpleNamespace, where: str) -> None:
    page: Page = demo.page
    page.goto(demo.address + PRACTICE)
    if where == "tree":
        page.locator(".practice-sessions a").filter(has_text="Find the stiff place").first.click()
    elif where == "debrief":
        page.locator(".practice-sessions").get_by_role(
            "link", name=re.compile("hinge")
        ).last.click()
    else:
        page.goto(demo.address + PRACTICE + where)
    found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]})
    assert not found.response["violations"], [
        (v["id"], [n["target"] for n in v["nodes"]]) for v in found.response["violations"]
    ]
    size = page.viewport_size
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.set_viewport_size(size)
