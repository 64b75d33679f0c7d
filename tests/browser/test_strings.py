"""The string room in the real interface: by pointer, by keyboard, in both unit worlds."""

import re
from types import SimpleNamespace

from playwright.sync_api import Page, expect

from tests.browser.conftest import unfold


def test_from_strand_tests_to_a_settled_twin_by_pointer(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/strings/")
    # Given a thread of the shop's own, and four strands of it pulled to breaking
    page.get_by_role("link", name="A new thread").click()
    page.get_by_label("Name").fill("hemp, four-cord")
    page.get_by_label("It is").select_option("hemp")
    page.get_by_label(re.compile("^So fine")).fill("150 tex")
    page.get_by_role("button", name="Keep the thread").click()
    for number, pounds in enumerate(("14.1", "15.2", "13.8", "14.9"), 1):
        page.get_by_label(re.compile("^It broke at")).fill(pounds)
        page.get_by_role("button", name="Keep the test").click()
        expect(page.get_by_text(re.compile("^strand, "))).to_have_count(number)
    expect(page.locator(".huge").first).to_have_text(re.compile(r"^\d+\.\d lb"))
    # When a string of it is planned for the elm bow
    page.goto(made_demo.address + "/strings/of/14/")
    unfold(page, "Plan a string")
    page.get_by_label("It is the").select_option("working")
    page.get_by_label("Laid as").select_option("two-bundle laid twist")
    page.get_by_label("Of", exact=True).select_option(label="hemp, four-cord")
    page.get_by_role("button", name="Plan it").click()
    page.wait_for_url(re.compile(r"/strings/\d+/$"))
    working = page.url
    expect(page.locator(".string-pictures")).to_contain_text("4 strands broken by you")
    # a part is pressed on its picture and changed there
    page.locator("[data-part=centre]").click()
    served = page.get_by_label(re.compile("^Served in all"))
    served.fill("5")
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator(".string-picture")).to_contain_text("served 5 in")
    # the hairline reads any place
    page.locator(".string-picture").hover(position={"x": 300, "y": 200})
    expect(page.locator(".strip")).to_contain_text("from the upper nock")
    # its brace is read until it has settled
    rows = (
        ("6 1/4", ""),
        ("6 1/16", "15"),
        ("6", "40"),
        ("5 31/32", "80"),
        ("5 31/32", "90"),
    )
    for number, (brace, more) in enumerate(rows, 1):
        page.get_by_label(re.compile("^Brace height read")).fill(brace)
        page.get_by_label("pulls since the last").fill(more)
        page.get_by_role("button", name="Keep the brace").click()
        expect(page.locator(".settling-picture .read")).to_have_count(number)
    expect(page.get_by_text("It has settled", exact=True)).to_be_visible()
    unfold(page, "Measure it")
    length = page.locator(".string-tally .big").first.inner_text().removesuffix(" in")
    page.locator("#measure_length").fill(length)
    page.locator("#measure_load").fill("40")
    page.locator("#measure_mass").fill("150")
    with page.expect_navigation():
        page.get_by_role("button", name="Keep what was measured").click()
    # and then its spare, which takes over what the first has, and stands beside it
    page.goto(made_demo.address + "/strings/of/14/")
    unfold(page, "Plan a string")
    expect(page.get_by_label("It is the")).to_have_value("spare")
    page.get_by_role("button", name="Plan it").click()
    unfold(page, "Measure it")
    page.locator("#measure_length").fill(length)
    page.locator("#measure_load").fill("40")
    page.locator("#measure_mass").fill("153")
    page.get_by_role("button", name="Keep what was measured").click()
    twin = page.locator(".string-tally table")
    expect(twin.locator("td.moss")).to_have_count(2)
    expect(page.locator(".string-tally")).to_contain_text("on: brace")
    page.goto(working)
    # in the other world the same figures stand in millimetres
    page.locator("[data-key=u]").click()
    expect(page.locator(".string-tally .big").first).to_have_text(re.compile(r"^\d{4} mm$"))
    expect(page.locator(".string-picture")).to_contain_text("served 127 mm")


def test_a_string_is_made_and_read_by_keyboard_alone(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/strings/4/")
    page.locator("[data-key=u]").click()  # in millimetres
    expect(page.locator("body")).to_have_attribute("data-world", "metric")
    # the ruler is walked by arrows, a part is opened by Enter
    page.locator("[data-ruler]").focus()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    expect(page.locator(".strip")).to_contain_text(re.compile(r"\d+ mm from the upper nock"))
    page.locator("[data-part=nock]").focus()
    page.keyboard.press("Enter")
    above = page.locator("#part_nock_nock_above")
    expect(above).to_be_visible()
    above.focus()
    page.keyboard.type("9")
    page.keyboard.press("Enter")
    expect(page.locator(".string-picture")).to_contain_text("nocking point 9 mm above square")
    # the bench view is entered, walked and left by single keys
    page.locator("body").click(position={"x": 5, "y": 790})
    page.keyboard.press("b")
    page.wait_for_url(re.compile(r"/strings/4/make/$"))
    expect(page.locator(".giant")).to_be_visible()
    page.keyboard.press("d")
    expect(page.get_by_text("step 2 of 13")).to_be_visible()
    page.keyboard.press("[")
    expect(page.get_by_text("step 1 of 13, done")).to_be_visible()
    page.keyboard.press("]")
    expect(page.get_by_text("step 2 of 13")).to_be_visible()
    page.keyboard.press("Escape")
    page.wait_for_url(re.compile(r"/strings/4/$"))
    # a brace height by tabs
    brace = page.get_by_label(re.compile("^Brace height read"))
    brace.focus()
    page.keyboard.type("128")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.locator(".settling-picture")).to_be_visible()
