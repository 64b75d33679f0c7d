"""Designs in a real browser: brought in, renamed, changed, kept as drafts, found again."""

from pathlib import Path
from types import SimpleNamespace

from playwright.sync_api import Page, expect

from tests.web.test_never_lost import longbow


def kept(page: Page) -> None:
    page.get_by_role("button", name="Keep the design").click()


def test_a_bow_brought_in_is_as_its_file_says_through_every_change(
    made_demo: SimpleNamespace, page: Page, tmp_path: Path
) -> None:
    file = tmp_path / "longbow.json"
    file.write_text(longbow())
    page.goto(f"{made_demo.address}/designs/import/")
    page.locator("[name=file]").set_input_files(str(file))
    page.locator("[name=archer]").select_option(index=1)
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_text("european yew").first).to_be_visible()
    expect(page.get_by_text("118.0 lb").first).to_be_visible()
    marked = page.get_by_text("This bow is as it is marked")
    expect(marked).to_be_visible()
    # a name is a name, and another weight is asked of it as it is
    for name, value in {"name": "Stout yew", "weight": "112"}.items():
        page.get_by_role("link", name="Change it").click()
        page.locator(f"#design-form [name={name}]").fill(value)
        kept(page)
        expect(page.get_by_role("heading", name="Stout yew")).to_be_visible()
        expect(marked).to_be_visible()
    # a number is built from it; what would solve it anew is shown first, and the number keeps it
    page.get_by_role("link", name="Start the build").click()
    page.get_by_role("button", name="Start the build").click()
    build = page.url
    page.get_by_role("link", name="design", exact=True).click()
    page.get_by_role("link", name="Change it").click()
    page.locator("#design-form [name=length]").fill("78")
    kept(page)
    expect(page.get_by_text("At the marks as they are")).to_be_visible()
    page.get_by_role("button", name="Solve the marks anew").click()
    expect(marked).to_be_hidden()
    page.goto(build)
    expect(page.get_by_text("The design was changed since this bow was begun")).to_be_visible()
    page.get_by_role("button", name="Take the change over").click()
    expect(page.get_by_text("The design was changed since this bow was begun")).to_be_hidden()


def test_a_new_design_opens_with_a_bow_and_one_that_makes_none_is_a_draft(
    made_demo: SimpleNamespace, page: Page
) -> None:
    page.goto(f"{made_demo.address}/designs/new/")
    expect(page.locator("#result .big").first).to_contain_text("lb")  # solved, to be changed
    expect(page.locator("#length-is")).to_contain_text("in by school A")
    page.get_by_text("by another ruler").click()
    page.locator("[name=reach]").fill("68")
    page.locator("[name=reach]").press("Tab")
    expect(page.locator("#reach-is")).to_contain_text("By that reach about")
    # a backing brings its two figures; alike lams are one row with their number
    unfold_place(page, "Layers")
    page.locator("[name=back]").select_option("bamboo slat")
    expect(page.locator("[name=back_root]")).to_have_value("1/8")
    page.get_by_role("button", name="One more lam").click()
    page.locator("[name=lam_count_0]").select_option("3")
    for name in ("lam_root_0", "lam_nock_0"):
        page.locator(f"[name={name}]").fill("0.03")
    page.locator("[name=name]").fill("Laminated")
    kept(page)
    expect(page.get_by_role("heading", name="Laminated")).to_be_visible()
    page.get_by_role("link", name="Change it").click()
    unfold_place(page, "Layers")
    expect(page.locator("[name=lam_count_0]")).to_have_value("3")
    page.locator("[name=length]").fill("43")
    kept(page)
    expect(page.get_by_text("Laminated is kept as a draft.")).to_be_visible()
    expect(page.get_by_text("The nearest that can be built")).to_be_visible()
    page.get_by_role("link", name="Start the build").click()
    page.get_by_role("button", name="Start the build").click()
    expect(page.get_by_role("heading", name="Laminated")).to_be_visible()


def unfold_place(page: Page, title: str) -> None:
    place = page.locator(f"[data-place-of='{title}']")
    if place.get_attribute("open") is None:
        place.locator("summary").first.click()


def test_designs_and_staves_are_found_and_what_fits_comes(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(f"{demo.address}/designs/")
    page.get_by_text("Narrow or sort").click()
    page.get_by_label("Wood").select_option("european ash")
    page.get_by_label("Sorted by").select_option("weight")
    page.get_by_role("button", name="Show", exact=True).click()
    expect(page.get_by_text("found")).to_be_visible()
    for row in page.locator(".design-row .what").all():
        expect(row).to_contain_text("european ash")
    page.goto(f"{demo.address}/staves/")
    for cell in page.locator("td[data-late]").all():
        cell.scroll_into_view_if_needed()
        expect(cell).not_to_have_text("…")
