"""From an empty workshop to the bow card, in both unit worlds, as a maker would go."""

import io
import re

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from tests.browser.conftest import Server, unfold

WORLDS = {
    "imperial": {
        "draw": "28 3/4",
        "weight": "40",
        "stave": ("70", "2 1/4", "1 1/2"),
        "modulus": "1.58",
        "length": "66",
        "checks": (
            (
                "30 at 15, 38 at 19, upper gap 6 1/4, lower gap 6 3/8",
                "off upper 0.02, off lower 0.012, 30 pulls, 25 min",
            ),
            ("26 at 16, 33 at 20, upper gap 6 1/4, lower gap 6 1/4", "off both 0.01, 25 pulls"),
        ),
        "form": {
            "Weight on the scale lb": "34",
            "at a draw of in": "23",
            "Gap at upper fade in": "6 1/4",
            "Gap at lower fade in": "6 1/16",
        },
        "proof": {
            "Weight at full draw lb": "40.5",
            "Brace height in": "6",
            "Mass of the bow, unstrung oz": "19",
            "Arrow gr": "480",
            "Arrow's speed, each shot fps": "140",
        },
        "says": ("40.5 lb", "27 in", "140 fps"),
        "toggled": False,
    },
    "metric": {
        "draw": "730",
        "weight": "18",
        "stave": ("1780", "57", "38"),
        "modulus": "10.9",
        "length": "1676",
        "checks": (
            (
                "13.5 at 380, 17 at 480, upper gap 160, lower gap 162",
                "off upper 0.5 mm, off lower 0.3 mm, 30 pulls, 25 min",
            ),
            ("12 at 410, 15 at 510, upper gap 160, lower gap 160", "off both 0.25 mm, 25 pulls"),
        ),
        "form": {
            "Weight on the scale kg": "15.4",
            "at a draw of mm": "585",
            "Gap at upper fade mm": "159",
            "Gap at lower fade mm": "154",
        },
        "proof": {
            "Weight at full draw kg": "18.4",
            "Brace height mm": "152",
            "Mass of the bow, unstrung g": "540",
            "Arrow g": "31",
            "Arrow's speed, each shot m/s": "43",
        },
        "says": ("18.4 kg", "686 mm", "43.0 m/s"),
        "toggled": True,
    },
}


def pdf(page: Page, address: str) -> str:
    """Fetch a PDF with the page's own session and return its words."""
    answer = page.request.get(address)
    assert answer.ok and answer.headers["content-type"] == "application/pdf"
    return "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.body())).pages)


def pencil(page: Page, line: str) -> None:
    """Write a pencil line and keep it."""
    page.keyboard.press("/")
    page.keyboard.type(line)
    page.keyboard.press("Enter")
    keep = page.get_by_role("button", name="Keep it")
    expect(keep).to_be_focused()
    keep.press("Enter")
    expect(page.locator(".notices")).to_contain_text(line.split(",")[0])


@pytest.mark.parametrize("world", WORLDS)
def test_from_an_empty_workshop_to_the_bow_card(empty_shop: Server, page: Page, world: str) -> None:
    w = WORLDS[world]
    # the first account, by the printed link
    page.goto(empty_shop.first_link())
    page.get_by_label("Your name here").fill("Inga")
    page.get_by_label("Password", exact=True).fill("heather on the fell")
    page.get_by_label("Password again").fill("heather on the fell")
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_text("No bow is being built")).to_be_visible()
    if w["toggled"]:
        page.keyboard.press("u")
        expect(page.get_by_role("button", name="mm · kg")).to_be_visible()

    # the archer, with the ruler the draw was taken with
    page.get_by_role("link", name="Add an archer").click()
    page.get_by_label("Name").fill("Runa Vik")
    page.get_by_label(re.compile("^Draw length")).fill(w["draw"])
    page.get_by_label("Measured").select_option("trade")
    page.get_by_label(re.compile("^Wanted weight")).fill(w["weight"])
    page.get_by_role("button", name="Keep the archer").click()
    expect(page.locator(".notices")).to_contain_text("Runa Vik is kept")

    # the stave
    page.get_by_role("link", name="Staves").click()
    page.get_by_role("link", name="Add a stave").click()
    page.get_by_label("Wood", exact=True).select_option("wych elm")
    for label, figure in zip(("Length", "Width", "Depth"), w["stave"], strict=True):
        page.get_by_label(re.compile(f"^{label} (in|mm)")).fill(figure)
    unfold(page, "What was measured of its wood")
    page.get_by_label(re.compile("^Own modulus (mpsi|gpa)", re.I)).fill(w["modulus"])
    page.get_by_role("button", name="Keep the stave").click()
    expect(page.get_by_text("its own")).to_be_visible()

    # the design, answered while it is typed, and its schools
    page.get_by_role("link", name="Design a bow from it").click()
    page.get_by_label("Name").fill("Runa's flatbow")
    page.get_by_label(re.compile("^Bow length")).fill(w["length"])
    page.get_by_label(re.compile("^Bow length")).press("Tab")
    expect(page.locator("#result .big").first).to_be_visible()
    page.get_by_role("button", name="Keep the design").click()
    expect(
        page.get_by_role("heading", name="How long the bow should be: three schools")
    ).to_be_visible()
    for rule in ("twice the draw", "as long as keeps this wood", "short, for cover"):
        expect(page.get_by_text(rule)).to_be_visible()
    table = pdf(
        page, page.get_by_role("link", name="Print the marking table").evaluate("a => a.href")
    )
    unit = "mm" if world == "metric" else "inches"
    assert "Runa's flatbow" in table and f"from centre, {unit}" in " ".join(table.split())

    # the build, stage by stage
    page.get_by_role("link", name="Start the build").click()
    page.get_by_role("button", name="Start the build").click()
    expect(page.get_by_role("heading", name="Wood: what to see to")).to_be_visible()
    page.get_by_role("button", name="The stave is chosen").click()
    page.get_by_role("button", name="It is marked").click()
    expect(page.get_by_text("on the scale under the tip bends it").first).to_be_visible()
    page.get_by_role("button", name=re.compile("^Done: Floor tiller, upper")).click()
    expect(page.locator("li.done")).to_contain_text("Floor tiller, upper")
    page.get_by_role("button", name="It bends on the floor").click()
    page.get_by_role("button", name="go on to tiller").click()

    # checks and removals by the pencil line, advice after each
    expect(page.get_by_text("Nothing has been read yet")).to_be_visible()
    for check, removal in w["checks"]:
        pencil(page, check)
        expect(page.locator(".next-box")).to_contain_text(
            re.compile("Take|Pull|at weight|Nothing needs")
        )
        expect(page.locator(".tally .huge").first).to_be_visible()
        pencil(page, removal)
    # a check by form
    page.keyboard.press("n")
    for label, figure in w["form"].items():
        page.get_by_label(label, exact=True).fill(figure)
    page.get_by_role("button", name="Keep the reading").click()
    expect(page.locator(".notices")).to_contain_text("Written down")
    expect(page.get_by_text("check 3 of 3")).to_be_visible()
    # a removal by form, then exercise by one button
    page.keyboard.press("r")
    page.locator("#id_removal-strokes").fill("6")
    page.get_by_role("button", name="Keep the removal").click()
    expect(page.locator(".next-box")).to_contain_text("25 more short pulls")
    page.get_by_role("button", name=re.compile("^25 pulls")).click()
    expect(page.locator(".next-box")).not_to_contain_text("more short pulls")
    page.get_by_role("button", name="It is tillered").click()

    # its string
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_text("As it will be on the bow")).to_be_visible()
    expect(page.get_by_role("heading", name="What it must bear")).to_be_visible()
    page.get_by_role("link", name="All its strings").click()
    page.get_by_role("button", name="It has its string").click()
    expect(page.get_by_text("heat up by themselves").first).to_be_visible()
    page.get_by_role("button", name="It is finished").click()

    # proof and card
    for label, figure in w["proof"].items():
        page.get_by_label(label, exact=True).fill(figure)
    page.get_by_role("button", name="Keep the proof").click()
    expect(page.get_by_text("Efficiency")).to_be_visible()
    card = pdf(page, page.get_by_role("link", name="Print the bow card").evaluate("a => a.href"))
    for said in (*w["says"], "Runa's flatbow", "wych elm"):
        assert said in card, said
    page.get_by_role("button", name="It is proved").click()
    expect(page.get_by_role("button", name="It is proved")).to_be_hidden()
    page.get_by_role("link", name="log").click()
    log = page.locator("table.log")
    for written in (w["checks"][0][0], w["checks"][0][1], "Build closed"):
        expect(log).to_contain_text(written)
    expect(page.get_by_role("heading", name="Log, 25 min in all")).to_be_visible()
