"""The queue of bench entries: nothing that was written is dropped unasked, nothing counts twice."""

import re
import subprocess
import sys
from pathlib import Path
from types import SimpleNamespace

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import BrowserType, Error, Page, Route, expect

from benchmarks.visitor import Visitor
from tests.browser.conftest import FLAGS, ROOT, Server, unfold
from tests.browser.test_hands import signed_in_at_the_tiller

NO_WORKER = """navigator.serviceWorker.ready.then(() => navigator.serviceWorker.getRegistrations())
    .then((all) => Promise.all(all.map((one) => one.unregister()))).then(() => 1)"""
TILLER, LOG = "/builds/14/tiller/", "/builds/14/log/"


def visit(page: Page, address: str) -> None:
    """Ask for a page; once more where the page that just sent its entries made itself anew."""
    try:
        page.goto(address)
    except Error as cut:
        if "ERR_ABORTED" not in cut.message:
            raise
        page.wait_for_load_state()
        page.goto(address)


def read(page: Page, weight: str, draw: str) -> None:
    """Write a reading by the form."""
    if not page.get_by_label("Weight on the scale lb").is_visible():
        page.keyboard.press("n")
    page.get_by_label("Weight on the scale lb").fill(weight)
    page.get_by_label("at a draw of in").fill(draw)
    page.get_by_role("button", name="Keep the reading").click()


def test_an_entry_waits_in_the_browser_until_the_server_answers(
    own_demo: Server, page: Page
) -> None:
    """The server is killed in the middle; the readings go when it is back, once.

    One of them the shop cannot take: it stays with its sentence until it is mended.
    """
    signed_in_at_the_tiller(own_demo, page)
    page.keyboard.press("n")
    page.get_by_label("Weight on the scale lb").fill("37")
    page.get_by_label("at a draw of in").fill("21 1/2")
    own_demo.stop()
    page.get_by_role("button", name="Keep the reading").click()
    unsent = page.locator("#unsent")
    expect(unsent).to_contain_text("1 entry waits here")
    page.get_by_label("Weight on the scale lb").fill("38")
    page.get_by_label("at a draw of in").fill("")
    page.get_by_role("button", name="Keep the reading").click()
    expect(unsent).to_contain_text("2 entries wait here")
    own_demo.start()
    visit(page, own_demo.address + "/builds/14/tiller/")
    expect(unsent).to_contain_text("needs the draw it was read at")
    visit(page, own_demo.address + "/builds/14/log/")
    expect(page.locator("table.log").get_by_text("37 lb at 21 1/2 in")).to_have_count(1)
    # still there on every page, and mended there
    expect(unsent).to_contain_text("An entry could not be taken as written")
    expect(unsent).to_contain_text("at a draw of, in: A weight needs the draw")
    expect(unsent).to_contain_text("Wych-elm flatbow")  # which bow it belongs to
    expect(unsent.get_by_label("Weight on the scale, lb")).to_have_value("38")
    unsent.get_by_label("at a draw of, in").fill("22")
    unsent.get_by_role("button", name="Send it again").click()
    expect(unsent).to_be_hidden()
    expect(page.locator("table.log").get_by_text("38 lb at 22 in")).to_have_count(1)
    visit(page, own_demo.address + "/builds/14/tiller/")
    expect(page.get_by_text("check 7 of 7")).to_be_visible()


def test_what_is_written_while_the_shop_is_away_arrives_each_once_and_in_order(
    own_demo: Server, page: Page
) -> None:
    """By form, by pencil line, and on the page that shows when another is asked for."""
    signed_in_at_the_tiller(own_demo, page)
    page.evaluate("navigator.serviceWorker.ready.then(() => 1)")
    own_demo.stop()
    unsent = page.locator("#unsent")
    for k, (weight, draw) in enumerate((("31", "18"), ("32", "18 1/2"), ("33", "19")), 1):
        read(page, weight, draw)
        expect(unsent).to_contain_text(re.compile(f"^{k} entr(y|ies) waits? here"))
    page.get_by_label(re.compile("Pencil line")).fill("34 at 19 1/2")
    page.get_by_label(re.compile("Pencil line")).press("Enter")
    expect(unsent).to_contain_text("4 entries wait here")
    expect(unsent).to_contain_text("Number 14, Wych-elm flatbow · 34 at 19 1/2 · written at")
    visit(page, own_demo.address + "/staves/")
    expect(page.get_by_role("heading", level=1)).to_have_text("The shop does not answer")
    expect(page.get_by_label("Number of the bow")).to_have_value("14")
    page.get_by_label("Pencil line").fill("35 at 20")
    page.get_by_role("button", name="Write it down").click()
    expect(unsent).to_contain_text("5 entries wait here")
    assert not Axe().run(page).response["violations"]
    own_demo.start()
    # by itself: the page that was asked for comes, and nothing waits
    expect(page.get_by_role("heading", level=1)).to_have_text("The rack")
    expect(unsent).to_be_hidden()
    visit(page, own_demo.address + LOG)
    written = page.locator("table.log td.written").all_inner_texts()[-5:]
    assert written == [
        "31 lb at 18 in", "32 lb at 18 1/2 in", "33 lb at 19 in", "34 at 19 1/2", "35 at 20",
    ]  # fmt: skip


def test_it_survives_a_closed_browser_and_waits_through_signing_in(
    own_demo: Server, browser_type: BrowserType, tmp_path: Path
) -> None:
    def opened() -> tuple[object, Page]:
        context = browser_type.launch_persistent_context(
            tmp_path, executable_path="/usr/bin/chromium", args=FLAGS, headless=True
        )
        return context, context.pages[0]

    context, page = opened()
    signed_in_at_the_tiller(own_demo, page)
    own_demo.stop()
    read(page, "31", "18")
    expect(page.locator("#unsent")).to_contain_text("1 entry waits here")
    context.close()
    own_demo.start()
    context, page = opened()
    context.clear_cookies()
    visit(page, own_demo.address + TILLER)
    expect(page.locator("#unsent")).to_contain_text("Sign in, and it goes.")
    page.get_by_label("Username").fill("maren")
    page.get_by_label("Password").fill("heather on the fell")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("navigation", name="Rooms")).to_be_visible()
    expect(page.locator("#unsent")).to_be_hidden()
    visit(page, own_demo.address + LOG)
    expect(page.locator("table.log").get_by_text("31 lb at 18 in")).to_have_count(1)
    # signed out between the page and the press, it waits as well; who else signs in is asked
    visit(page, own_demo.address + TILLER)
    context.clear_cookies()
    read(page, "32", "18")
    expect(page.locator("#unsent")).to_contain_text("Sign in, and it goes.")
    context.close()


def test_only_the_shops_own_word_takes_an_entry_out(demo: SimpleNamespace) -> None:
    """Neither an answer of 500, nor a page that looks well, nor a line that is cut."""
    page: Page = demo.page
    visit(page, demo.address + TILLER)
    answers = [
        lambda route: route.fulfill(status=500, body="broken"),
        lambda route: route.fulfill(status=200, content_type="text/html", body="<h1>Sign in</h1>"),
        lambda route: route.fulfill(
            status=200, content_type="application/json", body='{"kept": "x"}'
        ),
        lambda route: route.fulfill(status=507, body="full"),
        lambda route: route.abort(),
    ]
    unsent, tried = page.locator("#unsent"), list[str]()

    def other(route: Route) -> None:
        tried.append(route.request.post_data or "")
        answers[(len(tried) - 1) % len(answers)](route)

    page.evaluate(NO_WORKER)  # its sending cannot be seen from here
    page.route("**/tiller/reading/", other)
    read(page, "31", "17")
    for count in range(1, len(answers) + 1):
        for _ in range(40):  # it is tried by itself, too
            page.wait_for_timeout(300)
            if len(tried) >= count:
                break
            page.evaluate("window.dispatchEvent(new Event('online'))")
        expect(unsent).to_contain_text("1 entry waits here")
        if len(tried) == 4:
            expect(unsent).to_contain_text("The disk of the shop's computer is full")
    assert len(tried) >= len(answers)
    ids = [re.search("form_id=([^&]+)", one) for one in tried]
    assert len({one[1] for one in ids if one}) == 1
    # while a fold is open, the entry goes and the page stays as it is
    page.goto(demo.address + "/strings/of/14/")
    unfold(page, "Plan a string")
    page.evaluate("window.stays = 1")
    page.unroute("**/tiller/reading/")
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(unsent).to_be_hidden()
    page.wait_for_timeout(500)
    assert page.evaluate("window.stays") == 1
    expect(page.get_by_role("button", name="Plan it")).to_be_visible()
    visit(page, demo.address + LOG)
    expect(page.locator("table.log").get_by_text("31 lb at 17 in")).to_have_count(1)
    demo.faults.clear()  # the browser reports what was answered


def test_a_refused_entry_is_mended_or_thrown_away_where_its_maker_is(demo: SimpleNamespace) -> None:
    page: Page = demo.page
    visit(page, demo.address + TILLER)
    unsent = page.locator("#unsent")
    # refused in its form: mended there, and sent once
    read(page, "38", "")
    beside = page.locator(".wrong .error").first
    expect(beside).to_have_text("A weight needs the draw it was read at.")
    expect(page.get_by_label("at a draw of in")).to_be_focused()
    expect(unsent).to_be_hidden()
    page.get_by_label("at a draw of in").fill("16 1/2")
    page.get_by_role("button", name="Keep the reading").click()
    expect(page.get_by_text("Written down: 38 lb at 16 1/2 in")).to_be_visible()
    # refused and left: it stands on every page until it is mended
    read(page, "39", "")
    expect(beside).to_be_visible()
    visit(page, demo.address + "/staves/")
    expect(unsent).to_contain_text("An entry could not be taken as written")
    expect(unsent).to_contain_text("at a draw of, in: A weight needs the draw")
    found = Axe().run(page, context="#unsent")
    assert not found.response["violations"], found.response["violations"]
    # half mended it stays, the cursor in it, while another is tried in vain
    field = unsent.get_by_label("at a draw of, in")
    field.fill("1")
    page.evaluate("window.dispatchEvent(new Event('online'))")
    page.wait_for_timeout(300)
    expect(field).to_have_value("1")
    expect(field).to_be_focused()
    unsent.get_by_role("button", name="Throw it away").click()
    expect(field).to_be_visible()
    unsent.get_by_role("button", name="Throw it away for good").click()
    expect(unsent).to_be_hidden()
    # what an earlier version of the page left waiting goes too; what it left torn is kept aside
    row = '[{"action": "/builds/14/keep/", "body": "line=38+at+tea&page_world=imperial",'
    row += ' "labels": [{"name": "line", "label": "Pencil line"}]}]'
    page.evaluate("text => localStorage.setItem('fellwind-unsent', text)", row)
    page.reload()
    expect(unsent).to_contain_text("“tea” could not be read")
    unsent.get_by_label("Pencil line").fill("38 at 16")
    with page.expect_navigation():  # the page is made anew once it went
        unsent.get_by_role("button", name="Send it again").click()
    expect(unsent).to_be_hidden()
    page.evaluate("localStorage.setItem('fellwind-unsent', '[{broken')")
    page.reload()
    for _ in range(200):  # the page's rules let no script of a test wait inside it
        if page.evaluate("localStorage.getItem('fellwind-unsent-damaged')") == "[{broken":
            break
        page.wait_for_timeout(100)
    else:
        raise AssertionError("what was damaged is not kept aside")
    demo.faults.clear()  # the browser reports the refusals itself


@pytest.mark.parametrize(
    ("script", "ends"),
    [
        ("kills.py 12 --seed 7", "Everything is there once."),
        ("kills.py 4 --seed 7 --browser", "Everything is there once."),
        ("crowd.py 3", "Nothing counted twice."),
        ("fuzz.py 200 --seed 3 --longest 60", "Nothing broke."),
    ],
)
def test_the_shop_wears_well(script: str, ends: str) -> None:
    """Kills, people at once and hostile requests, short; by hand these runs are long."""
    name, *more = script.split()
    run = subprocess.run(
        [sys.executable, str(ROOT / "benchmarks" / name), *more],
        capture_output=True, text=True, check=False, timeout=240,
    )  # fmt: skip
    assert run.returncode == 0, run.stdout + run.stderr[-2000:]
    assert ends in run.stdout


def test_a_page_is_given_again_until_anything_changes(own_demo: Server) -> None:
    """Asked of the served shop: kept pages live by what SQLite writes beside its data."""
    port = own_demo.port
    one, other = Visitor(port), Visitor(port)
    for person in (one, other):
        page = person.get("/login/").text
        sent = {"username": "maren", "password": "heather on the fell", "next": "/"}
        assert "csrfmiddlewaretoken" in page and person.post("/login/", sent).status == 302
    ids = re.compile(r'name="(?:[\w-]*client_id|form_id)" value="([0-9a-f-]{36})"')
    for where in ("/", TILLER, "/staves/", "/designs/", "/builds/", "/designs/1/"):
        one.get(where)
        first, second = (one.get(where).text for _ in range(2))
        assert not set(ids.findall(first)) & set(ids.findall(second)), where
    # the token of a page that was kept for another browser is this one's own
    assert one.get(TILLER).status == 200
    token = re.search(r'name="csrfmiddlewaretoken" value="(\w{64})"', other.get(TILLER).text)
    line = {"line": "29 at 20", "page_world": "imperial"}
    sent = line | {"csrfmiddlewaretoken": token[1] if token else ""}
    assert other.post("/builds/14/keep/", sent, X_CSRFToken="").status == 302
    for k in range(12):  # whoever writes, and whether or not the log is taken in meanwhile
        reader, writer = (one, other) if k % 2 else (other, one)
        for _ in range(2):
            reader.get(TILLER)
        line = {"line": f"{30 + k} at 20; note change {k}", "page_world": "imperial"}
        assert writer.post("/builds/14/keep/", line).status == 302
        writer.get("/staves/1/")  # its message is read here
        assert f"{30 + k} at 20" in reader.get(TILLER).text, k
    assert one.post("/units/", {}).status == 302
    assert 'data-world="metric"' in one.get(TILLER).text
    assert 'data-world="metric"' in other.get(TILLER).text
    assert Visitor(port).get(TILLER).status == 302


def test_a_page_with_a_choice_half_made_is_not_made_anew(own_demo: Server, page: Page) -> None:
    """What waited goes when the shop answers again; a list changed meanwhile stays as chosen."""
    signed_in_at_the_tiller(own_demo, page)
    own_demo.stop()
    read(page, "31", "18")
    unsent = page.locator("#unsent")
    expect(unsent).to_contain_text("1 entry waits here")
    chosen = page.locator("main select:visible").first
    chosen.select_option(index=1)
    value = chosen.input_value()
    page.evaluate("window.sameDocument = true")
    own_demo.start()
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(unsent).to_be_hidden()
    assert page.evaluate("window.sameDocument") and chosen.input_value() == value
