"""The book in the real interface: a bow's page and its link, an inquest, the season, all along."""

import io
import re
import zipfile
from types import SimpleNamespace

from PIL import Image
from playwright.sync_api import Page, expect
from pypdf import PdfReader


def test_a_bows_page_its_bill_and_a_link_that_is_switched_off_again(
    made_demo: SimpleNamespace,
) -> None:
    page: Page = made_demo.page
    # Given the proof of the rowan bow
    page.goto(made_demo.address + "/builds/13/proof/")
    page.get_by_role("link", name="Show its page").click()
    expect(page.locator("h1")).to_contain_text("Rowan longbow")
    expect(page.get_by_role("row", name=re.compile("^Weight"))).to_contain_text("51.5 lb")
    expect(page.locator(".story-picture")).to_contain_text("tiller")
    # a bill that cannot be read is answered beside its field, and nothing typed is lost
    page.get_by_label("For an hour").fill("32,50")
    page.get_by_label("Money").fill("€")
    page.get_by_label("Materials").fill("rowan stave 45\nhorn")
    page.get_by_role("button", name="Keep the bill").click()
    expect(page.locator("main")).to_contain_text("write what it is and its price last")
    expect(page.get_by_label("For an hour")).to_have_value("32,50")
    page.get_by_label("Materials").fill("rowan stave 45\nhorn 12,50")
    page.get_by_role("button", name="Keep the bill").click()
    total = page.get_by_role("row", name=re.compile("^Together"))
    expect(total).to_contain_text(re.compile(r"\d+\.\d\d €"))
    answer = page.request.get(made_demo.address + "/book/bow/13/bill.pdf")
    printed = PdfReader(io.BytesIO(answer.body())).pages[0].extract_text()
    assert "12.50 €" in printed and total.locator("td").last.inner_text() in printed
    # in the other world
    page.keyboard.press("u")
    expect(page.get_by_role("row", name=re.compile("^Weight"))).to_contain_text("kg")
    # When the link is switched on, a stranger sees the card and no name
    page.get_by_role("button", name="Switch it on").press("Enter")
    link = page.locator(".long-link")
    address = link.inner_text()
    context = page.context.browser
    assert context
    stranger = context.new_context().new_page()
    stranger.goto(address)
    expect(stranger.locator("main")).to_contain_text("51.5 lb")
    expect(stranger.locator("main")).not_to_contain_text("Brandal")
    expect(stranger.get_by_role("navigation")).to_have_count(0)
    # and nothing once it is off
    page.get_by_role("button", name="Switch it off").click()
    expect(page.locator(".notices")).to_contain_text("The link is off")
    found = stranger.goto(address)
    assert found and found.status == 404


def test_an_inquest_from_the_break_to_the_makers_judgement(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    # Given the elm bow, which has just broken at the tree
    page.goto(made_demo.address + "/builds/14/end/")
    page.get_by_label("This bow is").select_option("broken")
    page.get_by_label("In words").fill("went with a crack at the tree")
    page.get_by_role("button", name="Close the build").click()
    page.wait_for_url(re.compile("/builds/14/inquest/$"))
    expect(page.locator("main")).to_contain_text("Say what was seen and where it broke")
    # a place beyond the nock is answered, and what was typed stays
    seen = page.get_by_label("What was seen")
    seen.select_option(index=1)
    place = page.get_by_label(re.compile("^from the bow's centre"))
    place.fill("40")
    page.get_by_role("button", name="Keep the inquest").click()
    expect(page.locator("main")).to_contain_text("beyond the nock")
    expect(place).to_have_value("40")
    expect(seen).to_have_value("fret")
    place.fill("14")
    page.get_by_role("button", name="Keep the inquest").click()
    # Then causes stand with what speaks for and against them, weighed to a whole
    shares = page.locator(".cause-head .big")
    expect(shares.first).to_be_visible()
    total = sum(int(one.removesuffix(" %")) for one in shares.all_inner_texts())
    assert 90 <= total <= 105, "a cause too small to be shown may be left out, no more"
    expect(page.locator(".for-it").first).to_be_visible()
    # and the maker judges
    page.get_by_label("You judge").select_option(index=2)
    judged = page.get_by_label("You judge").input_value()
    page.get_by_role("button", name="Keep the inquest").click()
    expect(page.locator(".notices")).to_contain_text("kept")
    assert page.get_by_label("You judge").input_value() == judged
    # which the season counts
    page.goto(made_demo.address + "/book/season/")
    expect(page.locator("main")).to_contain_text("Wych-elm flatbow")


def test_everything_is_searched_compared_and_taken_along(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/book/")
    page.locator("main input[type=search], main input[name=q]").first.fill("linen")
    page.keyboard.press("Enter")
    expect(page.locator("main")).to_contain_text("bleached linen")
    page.get_by_role("link", name="Bows side by side").click()
    page.get_by_label(re.compile("Rowan longbow")).check()
    page.get_by_role("button", name="Lay them side by side").click()
    expect(page.get_by_role("row", name=re.compile("Rowan"))).to_contain_text("51.5 lb")
    page.get_by_role("link", name="13, Rowan longbow").click()
    expect(page).to_have_url(re.compile("/book/bow/13/$"))
    page.goto(made_demo.address + "/shop/")
    with page.expect_download() as taken:
        page.get_by_role("link", name=re.compile("^Take everything along")).click()
    with zipfile.ZipFile(taken.value.path()) as pack:
        assert "shop.json" in pack.namelist() and "csv/builds.build.csv" in pack.namelist()


def test_from_the_last_scrape_to_the_bow_card(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    # Given the elm bow's last strokes at the tiller
    page.goto(made_demo.address + "/builds/14/tiller/")
    page.keyboard.press("/")
    page.keyboard.type("off both 2 strokes with scraper, 25 pulls, 10 min")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator(".notices")).to_contain_text("Written down")
    # a photograph of it, from the log
    page.goto(made_demo.address + "/builds/14/photos/")
    page.get_by_label("Photograph").set_input_files(
        {"name": "elm.png", "mimeType": "image/png", "buffer": _picture()}
    )
    page.get_by_label("What it shows").fill("The last look")
    page.get_by_role("button", name="Keep the photograph").click()
    expect(page.get_by_alt_text("The last look")).to_be_visible()
    # When it goes on, stage by stage, to its finish
    for stage in ("string", "finish", "proof"):
        page.goto(made_demo.address + "/builds/14/")
        page.locator("form[action$='/next/'] button").click()
        there = "/strings/of/14/" if stage == "string" else f"/builds/14/{stage}/"
        page.wait_for_url(re.compile(f"{there}$"))
        if stage == "finish":
            page.get_by_label("Back's edges, radius").fill("1/16")
            page.get_by_role("button", name="The edges are rounded").click()
            expect(page.locator(".notices")).to_contain_text("It is kept")
    # and is proved: a speed no bow makes is answered beside its field
    page.get_by_label("Weight at full draw").fill("41.5")
    page.get_by_label("Brace height").fill("6")
    page.get_by_label("Mass of the bow, unstrung").fill("21")
    page.get_by_label("String follow after an hour").fill("7/8")
    page.locator("[name=arrow_mass]").fill("420")
    speed = page.get_by_label("Arrow's speed, each shot")
    speed.fill("1500")
    page.get_by_role("button", name=re.compile("proof", re.I)).last.click()
    expect(page.locator("main")).to_contain_text("outside what is possible")
    expect(page.get_by_label("Weight at full draw")).to_have_value("41.5")
    speed.fill("152 153 151")
    page.get_by_role("button", name=re.compile("proof", re.I)).last.click()
    expect(page.locator(".notices")).to_contain_text("The proof is written down")
    # Then its card says what it pulls, and its page shows the look
    answer = page.request.get(made_demo.address + "/builds/14/card.pdf")
    assert "41.5 lb" in PdfReader(io.BytesIO(answer.body())).pages[0].extract_text()
    page.goto(made_demo.address + "/book/bow/14/")
    expect(page.get_by_alt_text("The last look")).to_be_visible()


def _picture() -> bytes:
    file = io.BytesIO()
    Image.new("RGB", (640, 480), (150, 120, 90)).save(file, "PNG")
    return file.getvalue()


def test_a_bow_goes_to_another_shop_and_a_sheet_comes_in(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    page.goto(made_demo.address + "/book/bow/13/")
    with page.expect_download() as taken:
        page.get_by_role("link", name="Take it along", exact=True).click()
    # brought in here again, it is asked whether a copy is wanted
    page.goto(made_demo.address + "/book/bring/")
    page.get_by_label("A bow's ZIP").set_input_files(taken.value.path())
    page.get_by_role("button", name="Look into it").click()
    expect(page.locator("main")).to_contain_text("Nothing is written before you say so")
    page.get_by_role("button", name="Bring it in").click()
    expect(page.locator("main")).to_contain_text("say whether a copy is wanted")
    page.get_by_label("Bring it in once more, as a copy").check()
    page.get_by_role("button", name="Bring it in").click()
    page.wait_for_url(re.compile(r"/book/bow/19/$"))
    expect(page.locator("h1")).to_contain_text("Rowan longbow")
    expect(page.get_by_role("row", name=re.compile("^Weight"))).to_contain_text("51.5 lb")
    # a sheet with semicolons, commas and a mark before it, looked into and kept by keyboard
    page.goto(made_demo.address + "/book/sheet/")
    sheet = "\ufeffstave;day;mass (kg);meter\n18;01.11.2026;1,01;14,5 %\n18;heute;1;\n"
    page.get_by_label("A CSV file").set_input_files(
        {"name": "w.csv", "mimeType": "text/csv", "buffer": sheet.encode()}
    )
    page.get_by_role("button", name="Look into it").press("Enter")
    expect(page.get_by_role("row", name=re.compile("^2"))).to_contain_text("stave 18, 1 November")
    expect(page.get_by_role("row", name=re.compile("^3"))).to_contain_text("is no day")
    page.get_by_role("button", name="Write 1 row down").press("Enter")
    expect(page.locator(".notices")).to_contain_text("1 row is written; 1 could not be")
    # and what the shop has learned stands with its evidence, and a design does without it
    page.goto(made_demo.address + "/book/learned/")
    expect(page.locator("main")).to_contain_text("Your european ash is")
    page.goto(made_demo.address + "/designs/")
    page.get_by_role("link", name=re.compile("Ash flatbow for the spring")).first.click()
    page.get_by_role("button", name="Reckon it by the book alone").click()
    expect(page.locator("#reckoned")).to_contain_text("Reckoned by the book alone")
    page.get_by_role("button", name="Reckon it with what the shop has learned").press("Enter")
    expect(page.locator("#reckoned")).to_contain_text("under the book")
