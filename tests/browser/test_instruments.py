"""Instruments in the real interface: a pull that is watched to the limit, calipers down a limb."""

import re
import urllib.request
from types import SimpleNamespace

from playwright.sync_api import Page, expect


def _made(page: Page, address: str, kind: str, name: str) -> str:
    """Make an instrument in the shop; the address that it sends to."""
    page.goto(address + "/instruments/")
    page.get_by_label("It is a").select_option(kind)
    page.get_by_label("Called").fill(name)
    page.get_by_role("button", name="Make its token").click()
    said = page.locator(".notices").inner_text()
    found = re.search(r"http://\S+/instruments/\S+/", said)
    assert found, said
    return found.group()


def _say(where: str, text: str) -> int:
    request = urllib.request.Request(where, text.encode(), {"Content-Type": "text/plain"})
    with urllib.request.urlopen(request, timeout=10) as answer:
        return int(answer.status)


def test_a_pull_is_watched_to_the_limit_and_kept(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    where = _made(page, made_demo.address, "scale", "the new scale")
    page.goto(made_demo.address + "/builds/14/tiller/bench/")
    page.get_by_role("button", name="Watch the scale").click()
    box = page.locator(".live-pull")
    expect(box.locator("[name=since]")).not_to_have_value("")
    # up by inches, as a slow hand would, past the weight to stop at
    for k in range(26):
        draw, weight = 200 + 12 * k, 1.1 * k
        assert _say(where, f"d {draw} mm\nw {weight:.2f} kg\n") == 204
    expect(box.locator("[data-weight]")).to_have_text("60.6")  # pounds
    expect(box).to_have_class(re.compile("over"))
    assert int(box.get_by_role("meter").get_attribute("aria-valuenow") or 0) >= 100
    points = box.locator(".live-line").get_attribute("points") or ""
    assert len(points.split()) >= 1
    for k in range(25, -1, -2):
        _say(where, f"d {200 + 12 * k} mm\nw {1.02 * k:.2f} kg\n")
    expect(box.locator("[data-pulls]")).to_have_text("1 pull")
    page.get_by_role("button", name="Keep this pull").click()
    expect(page.locator(".notices")).to_contain_text(re.compile(r"Written down: (59|6\d)"))
    page.goto(made_demo.address + "/builds/14/log/")
    expect(page.locator("main")).to_contain_text(re.compile(r"2[67]\.\d\d kg at 500 mm"))
    # a token that was taken back says nothing more
    page.goto(made_demo.address + "/instruments/")
    page.get_by_role("button", name="Take back the token of the new scale").click()
    expect(page.locator(".notices")).to_contain_text("is taken back")
    try:
        status = _say(where, "w 3 kg\n")
    except urllib.error.HTTPError as error:
        status = error.code
    assert status == 404


def test_calipers_go_down_a_limb_and_shots_into_their_field(made_demo: SimpleNamespace) -> None:
    page: Page = made_demo.page
    where = _made(page, made_demo.address, "calipers", "the long calipers, new")
    page.goto(made_demo.address + "/builds/17/rough/")
    fold = page.locator("details", has=page.get_by_text("Calipers at the marks"))
    if fold.get_attribute("open") is None:
        fold.locator("summary").first.click()
    first = page.locator("input[name$=thick_0]")
    first.click()
    expect(first).to_be_focused()
    page.wait_for_timeout(900)  # until the page has begun to listen
    _say(where, "t 15.10 mm\n")
    expect(first).to_have_value("0.594")
    second = page.locator("input[name$=thick_1]")
    expect(second).to_be_focused()
    _say(where, "t 14.80\nt 14.80 mm\n")  # one without its unit is not guessed
    expect(second).to_have_value("0.583")
    expect(page.locator("input[name$=thick_2]")).to_be_focused()
    page.goto(made_demo.address + "/instruments/")
    row = page.get_by_role("row", name=re.compile("the long calipers, new"))
    expect(row).to_contain_text("has no unit")
    # shots are added one after another
    page.goto(made_demo.address + "/builds/13/proof/")
    shots = page.get_by_label("Arrow's speed, each shot")
    if not shots.is_visible():
        page.locator(
            "details:not([open]) summary", has_text=re.compile("again|anew|proof")
        ).first.click()
    shots.click()
    page.wait_for_timeout(900)
    for speed in ("48.2", "47.9"):
        _say(where, f"v {speed} m/s\n")
    expect(shots).to_have_value("158 157")
