"""From outline to blank in the real interface: drawn, measured, backed, glued, spoiled."""

import re
from types import SimpleNamespace

from playwright.sync_api import Locator, Page, expect


def opened(page: Page, place: str) -> None:
    """Open a place of the design's picture."""
    page.locator(f'[data-place-of="{place}"] > summary').click()


def weight(page: Page) -> float:
    """What the tally says the bow pulls (lb)."""
    told = page.locator("#result .big").first
    expect(told).to_have_text(re.compile(r"lb"))
    return float(told.inner_text().split()[0])


def dragged(page: Page, point: Locator, dx: float, dy: float) -> None:
    point.scroll_into_view_if_needed()
    box = point.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx, y + dy, steps=4)
    page.mouse.up()


def test_an_outline_is_dragged_stepped_and_solved(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/designs/new/")
    # Given a kind chosen by its picture
    page.locator(".kinds > summary").click()
    page.locator(".kind", has_text="Pyramid").click()
    expect(page.locator("[name=kind]")).to_have_value("pyramid")
    expect(page.locator("#result .tally")).to_be_visible()
    # When its outline is drawn by points, and a further one is dragged out of the line
    opened(page, "Outline")
    page.get_by_role("button", name="Draw it by points").click()
    expect(page.locator("[data-point=upper_wide_nock]")).to_be_visible()
    page.get_by_role("button", name="One more width").click()
    at, wide = page.locator("[name=upper_at_0]"), page.locator("[name=upper_wide_0]")
    expect(at).to_be_visible()
    before = at.input_value(), wide.input_value()
    expect(page.locator("#result")).to_have_attribute("aria-busy", "false")
    expect(page.locator("#lengths")).to_contain_text("to the grip")  # nothing moves any more
    dragged(page, page.locator("[data-point=upper_wide_0] .handle"), 40, -12)
    expect(at).not_to_have_value(before[0])
    expect(wide).not_to_have_value(before[1])
    # Then it is stepped by the keys, keeps the focus, and the page still says what it pulls
    after = wide.input_value()
    page.locator("[data-point=upper_wide_0]").focus()
    page.keyboard.press("ArrowUp")
    expect(wide).not_to_have_value(after)
    assert page.evaluate("document.activeElement.dataset.point") == "upper_wide_0"
    expect(page.locator("#lengths")).to_contain_text("to the grip")
    wanted = weight(page)
    # and units switched take the points along
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("u")
    expect(page.locator("[name=upper_wide_0]")).to_have_value(re.compile(r"^\d\d"))
    page.keyboard.press("u")
    expect(page.locator("[name=upper_wide_0]")).to_have_value(re.compile(r"/|^\d$"))
    page.locator("[name=name]").fill("Drawn by hand")
    page.get_by_role("button", name="Keep the design").click()
    page.wait_for_url(re.compile(r"/designs/\d+/$"))
    expect(page.locator(".tally .big").first).to_have_text(re.compile(rf"{wanted:.0f}|lb"))


def test_a_measured_bow_is_scaled_to_its_weight(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/designs/measured/")
    rows = {
        "at": ("4", "18", "33"),
        "wide": ("1 3/4", "1 3/4", "1/2"),
        "thick": ("9/16", "1/2", "3/8"),
    }
    for what, figures in rows.items():
        for k, text in enumerate(figures):
            page.locator(f"[name=upper_{what}_{k}]").fill(text)
    page.locator("[name=archer]").select_option(index=1)  # neither is any list's first
    page.locator("[name=material]").select_option("wych elm")
    expect(page.locator("#result .big").first).to_have_text(re.compile("lb"))
    by_book = weight(page)
    # a weight read makes the wood stiffer or softer, and says by how much
    page.locator("[name=weight]").fill(f"{0.8 * by_book:.0f}")
    page.locator("[name=weight]").press("Tab")
    expect(page.locator("#result .said")).to_contain_text("softer than the book")
    page.locator("[name=name]").fill("From the attic")
    page.get_by_role("button", name="Put it on the shelf").click()
    page.wait_for_url(re.compile(r"/designs/\d+/$"))
    expect(page.locator("main")).to_contain_text("as it is marked")


def test_a_backed_bow_goes_from_its_sums_to_the_re_check(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/builds/17/back/")
    # the sums of the flax, what it adds, and its rest in this air
    sums = page.locator(".ticks")
    expect(sums).to_contain_text("of dry fibre in")
    expect(sums).to_contain_text("It adds about")
    expect(sums).to_contain_text("tillering waits")
    # the wait is taken off, the list ticked, and the stage goes on to the tiller
    page.get_by_role("button", name="Take this wait off").first.click()
    expect(page.locator(".waits li")).to_have_count(0)
    again = page.get_by_role("button", name=re.compile("the tiller is looked at again"))
    again.click()
    expect(again).to_be_disabled()
    page.get_by_role("button", name=re.compile("go on to tiller")).click()
    page.wait_for_url("**/builds/17/tiller/")


def test_a_stack_is_glued_on_a_running_clock(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/builds/15/back/")
    expect(page.locator(".bench-of").first).to_contain_text("Glue to mix")
    page.get_by_role("button", name="First brush now").click()
    clock = page.locator(".waits .timer").first
    expect(clock).to_have_text(re.compile(r"^\d+:\d\d$"))
    first = clock.inner_text()
    expect(clock).not_to_have_text(first)  # it runs
    assert re.match(r"^\d+:\d\d", page.title())
    page.reload()  # and goes on after a reload
    expect(clock).to_have_text(re.compile(r"^\d+:\d\d$"))

    def seconds(text: str) -> int:
        minutes, rest = text.split(":")
        return int(minutes) * 60 + int(rest)

    assert seconds(clock.inner_text()) < seconds(first)
    page.get_by_role("button", name="Warm, cure in the oven, cool").click()
    expect(page.locator(".plan li")).to_have_count(5)
    expect(page.locator(".plan")).to_contain_text("after Lams warm in the box")


def test_calipers_go_down_a_limb_and_a_spoiled_stave_is_planned_anew(
    made_demo: SimpleNamespace,
) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/builds/17/rough/")
    page.get_by_text("Calipers at the marks").click()
    # the grey figure is what it shall be; one place is typed a shaving fuller
    field = page.locator("[name=thick_3]")
    field.fill("0.75")
    field.press("Enter")
    expect(page.locator(".said-lines")).to_contain_text(re.compile("Most is left on the"))
    expect(page.locator(".bar-off").first).to_be_visible()
    # and then a split: what the same stave still gives
    page.get_by_role("link", name="A limb is spoiled").click()
    page.locator("[name=place]").fill("27")
    page.get_by_role("button", name="What is left of it").click()
    expect(page.locator(".way-out")).to_have_count(4)
    way = page.locator(".way-out", has_text="the handle moved to the middle")
    expect(way).to_contain_text("Can be made to")
    way.get_by_role("button", name="Plan it so").click()
    expect(page.get_by_text(re.compile("follows .*variant"))).to_be_visible()
