"""The marks in a real browser: typed, dragged and stepped, undone, compared and printed."""

from pathlib import Path
from types import SimpleNamespace

from playwright.sync_api import Page, expect

MARKS = "/designs/3/marks/"


def test_a_thickness_is_dragged_with_the_pointer_and_undone(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + MARKS)
    field = page.locator("[name=upper_thickness_5]")
    before = field.input_value()
    weight = page.locator("#result .big").first
    was = weight.inner_text()
    handle = page.locator("[data-handle=upper_thickness_5]")
    handle.scroll_into_view_if_needed()
    box = handle.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 12, steps=5)
    page.mouse.up()
    expect(field).not_to_have_value(before)
    expect(weight).not_to_have_text(was)
    expect(page.locator(".former-line").first).to_be_attached()
    page.get_by_role("button", name="Undo").click()
    expect(field).to_have_value(before)
    expect(weight).to_have_text(was)
    page.get_by_role("button", name="Redo").click()
    expect(field).not_to_have_value(before)


def test_marks_are_typed_and_pasted_as_in_a_sheet(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + MARKS)
    columns = ("upper_width", "upper_thickness", "lower_width")
    one, two, other = (page.locator(f"[name={name}_1]") for name in columns)
    one.focus()
    page.keyboard.press("Enter")
    expect(page.locator("[name=upper_width_2]")).to_be_focused()
    page.keyboard.press("Tab")
    expect(page.locator("[name=upper_width_3]")).to_be_focused()
    page.keyboard.press("Shift+Tab")
    page.keyboard.press("Shift+Enter")
    expect(one).to_be_focused()
    last = page.locator("input[name^=upper_width]").last
    last.focus()
    page.keyboard.press("Tab")
    expect(page.locator("[name=upper_thickness_0]")).to_be_focused()
    thick = page.locator("[name=lower_thickness_1]").input_value()
    one.evaluate(
        """field => {
          const data = new DataTransfer();
          data.setData("text", "1 5/8\\t7/16\\r\\n1 9/16\\t27/64\\r\\n");
          field.dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true}));
        }"""
    )
    expect(one).to_have_value("1 5/8")
    expect(two).to_have_value("7/16")
    expect(page.locator("[name=upper_width_2]")).to_have_value("1 9/16")
    expect(page.locator("[name=upper_thickness_2]")).to_have_value("27/64")
    expect(page.locator(".former-line").first).to_be_attached()  # it is reckoned as well
    page.get_by_role("button", name="Lower as wide").click()
    expect(other).to_have_value("1 5/8")
    expect(page.locator("[name=lower_thickness_1]")).to_have_value(thick)
    # boxes that hold a figure are shown where they are wanted, and the drawing is always in view
    hold = page.locator("[name=lock_upper_width_2]")
    expect(hold).to_be_hidden()
    page.get_by_label("hold some figures").check()
    expect(hold).to_be_visible()
    page.locator("input[name^=lower_thickness]").last.focus()
    expect(page.locator("#result .ruler").first).to_be_in_viewport()


def test_marks_are_changed_added_and_kept_with_the_keyboard_alone(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + MARKS)
    field = page.locator("[name=lower_thickness_6]")
    before = field.input_value()
    handle = page.locator("[data-handle=lower_thickness_6]")
    handle.focus()
    page.keyboard.press("ArrowUp")
    expect(field).not_to_have_value(before)
    expect(handle).to_be_focused()
    page.keyboard.press("ArrowDown")
    expect(field).to_have_value(before)
    expect(handle).to_be_focused()
    page.keyboard.press("ArrowUp")
    expect(field).not_to_have_value(before)
    page.locator("#place").focus()
    page.keyboard.type("15")
    count = page.locator("[name^=upper_width]").count()
    page.get_by_role("button", name="on the upper limb").focus()
    page.keyboard.press("Enter")
    expect(page.locator("[name^=upper_width]")).to_have_count(count + 1)
    page.get_by_role("button", name="Keep the marks").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("are kept as you set them")).to_be_visible()
    page.get_by_role("button", name="again").click()
    expect(page.get_by_text("is solved for its weight again")).to_be_visible()


def test_designs_are_compared_swept_walked_and_printed(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    page.goto(demo.address + "/designs/compare/")
    page.get_by_label("Wych-elm flatbow").focus()
    page.keyboard.press("Space")
    page.get_by_label("Rowan longbow").check()
    page.get_by_role("button", name="Lay them side by side").click()
    expect(page.get_by_role("columnheader", name="B Rowan longbow")).to_be_visible()
    page.goto(demo.address + "/designs/1/sweep/")
    page.get_by_label("To the right", exact=True).select_option("reflex")
    page.get_by_role("button", name="Sweep them").click()
    expect(page.get_by_text("it would pull")).to_be_visible()
    page.goto(demo.address + "/designs/1/walk/")
    page.keyboard.press("]")
    expect(page.get_by_role("heading", name="2 of")).to_be_visible()
    page.keyboard.press("]")
    expect(page.get_by_text("the two halves must agree")).to_be_visible()
    page.keyboard.press("Escape")
    page.wait_for_url("**/designs/1/")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the cutting file (DXF)").click()
    assert saved.value.suggested_filename == "design-1.dxf"
    page.get_by_role("link", name="Save the cutting file (DXF)").focus()
    with page.expect_download() as again:
        page.keyboard.press("Enter")
    assert (
        again.value.suggested_filename == "design-1.dxf"
        and b"ENTITIES" in Path(again.value.path()).read_bytes()
    )
    answer = page.request.get(demo.address + "/designs/1/template.pdf")
    assert answer.ok and answer.headers["content-type"] == "application/pdf"
