"""Make the pictures in docs/screenshots from a fresh demo workshop, in headless Chromium."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from tests.browser.conftest import FLAGS, Server, manage  # noqa: E402

VIEWS = {
    "today": "/",
    "staves": "/staves/",
    "stave": "/staves/18/",
    "design": "/designs/1/",
    "fit": "/staves/14/fit/?design=1",
    "photograph": "/builds/14/photographed/5/",
    "inquest": "/builds/12/inquest/",
    "bow": "/book/bow/13/",
    "marks": "/designs/1/marks/",
    "design-edit": "/designs/4/edit/",
    "stack": "/builds/15/back/",
    "season": "/builds/season/",
    "tiller": "/builds/14/tiller/",
    "bench": "/builds/14/tiller/bench/",
    "string": "/strings/1/",
    "learned": "/book/learned/",
    "proof": "/builds/13/proof/",
    "practice": "/practice/5/",
    "debrief": "/practice/4/debrief/",
}


def main() -> None:
    """Serve the demo from a folder of its own and take one picture of each view."""
    target = ROOT / "docs" / "screenshots"
    target.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as home, sync_playwright() as playwright:
        manage(Path(home), "prepare")
        manage(Path(home), "load_demo", demo=True)
        server = Server(Path(home), demo=True)
        try:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(server.address)
            page.get_by_role("button", name="Open the workshop").click()
            for name, path in VIEWS.items():
                page.goto(server.address + path)
                page.wait_for_load_state("networkidle")
                if name == "design":
                    page.locator("[data-ruler]").focus()
                    for _ in range(9):
                        page.keyboard.press("ArrowRight")
                if name == "marks":
                    page.locator("[name=upper_thickness_5]").fill("0.38")
                    page.keyboard.press("Tab")
                    page.locator(".former-line").first.wait_for(state="attached")
                page.screenshot(path=target / f"{name}.png")
                print(name)
            browser.close()
        finally:
            server.stop()


if __name__ == "__main__":
    main()
