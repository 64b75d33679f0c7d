"""What is typed while the shop answers slowly stays as it was typed."""

import time
from collections.abc import Iterator
from types import SimpleNamespace

import pytest
from playwright.sync_api import Page, Route, expect

LATE = 3.0  # every answer to what a form asks (s)


def _late(route: Route) -> None:
    time.sleep(LATE)
    route.continue_()


@pytest.fixture
def slow(made_demo: SimpleNamespace, page: Page) -> Iterator[SimpleNamespace]:
    """A shop whose answers to forms come late; pages come as usual."""
    for where in ("shape", "preview", "lengths", "near", "act", "questions", "keep"):
        page.route(f"**/{where}/", _late)
    yield made_demo
    page.unroute_all(behavior="ignoreErrors")


def test_a_design_typed_faster_than_it_is_answered(slow: SimpleNamespace, page: Page) -> None:
    page.goto(f"{slow.address}/designs/new/")
    page.locator("#design-form .kinds summary").click()
    page.get_by_role("button", name="pyramid").first.click()  # the form is asked for anew
    page.get_by_label("Wood", exact=True).select_option("white ash")
    page.get_by_label("Bow length").press_sequentially("68 1/2", delay=60)
    page.get_by_label("Wanted weight").press_sequentially("43", delay=60)
    expect(page.locator("#design-form .kinds summary")).to_have_text("pyramid")
    expect(page.get_by_label("Wood", exact=True)).to_have_value("white ash")
    expect(page.get_by_label("Bow length")).to_have_value("68 1/2")
    expect(page.get_by_label("Wanted weight")).to_have_value("43")
    expect(page.get_by_label("Wanted weight")).to_be_focused()
    # what stands there is told to be old until it is reckoned from what stands in the form
    page.get_by_label("Wanted weight").press("Tab")
    expect(page.locator("#design-form")).to_have_class("design-form drafting")
    expect(page.locator("#result")).to_contain_text("43")
    page.get_by_label("Wanted weight").fill("39")
    expect(page.locator("#result")).to_have_attribute("aria-busy", "true")
    page.get_by_label("Wanted weight").press("Tab")
    expect(page.locator("#result")).to_have_attribute("aria-busy", "false")


def test_a_stave_typed_faster_than_it_is_answered(slow: SimpleNamespace, page: Page) -> None:
    page.goto(f"{slow.address}/staves/new/")
    page.locator("[name=kind]").select_option("board")
    page.locator("[name=material]").select_option("white ash")
    page.locator("[name=length]").press_sequentially("71", delay=60)
    page.locator("[name=width]").press_sequentially("2 1/4", delay=60)
    page.wait_for_timeout(1000 * LATE + 1500)
    for name, value in {
        "kind": "board", "material": "white ash", "length": "71", "width": "2 1/4",
    }.items():  # fmt: skip
        expect(page.locator(f"[name={name}]")).to_have_value(value)


def test_marks_typed_faster_than_they_are_answered(slow: SimpleNamespace, page: Page) -> None:
    page.goto(f"{slow.address}/designs/1/marks/")
    page.get_by_role("button", name="Lower like upper").click()
    one, other = (page.locator(f"input[name=upper_{what}_3]") for what in ("width", "thickness"))
    one.fill("1 7/16")
    other.press_sequentially("x", delay=60)
    kept = other.input_value()
    page.wait_for_timeout(1000 * LATE + 1500)
    expect(one).to_have_value("1 7/16")
    expect(other).to_have_value(kept)


def test_the_next_flaw_is_typed_while_the_last_is_kept(slow: SimpleNamespace, page: Page) -> None:
    page.goto(f"{slow.address}/staves/14/")
    form = page.locator("form[action$='/flaws/keep/']")
    for name, value in {
        "at": "9",
        "off": "1/4",
        "length": "1/2",
        "width": "1/4",
        "depth": "1/8",
    }.items():
        form.locator(f"[name={name}]").fill(value)
    count = page.locator("#flaws tbody tr").count()
    form.get_by_role("button").first.click()
    form.locator("[name=at]").fill("")
    form.locator("[name=at]").press_sequentially("21 1/2", delay=60)
    expect(page.locator("#flaws tbody tr")).to_have_count(count + 1)
    expect(form.locator("[name=at]")).to_have_value("21 1/2")
