"""A real server in a folder of its own, and Debian's Chromium driven by Playwright."""

import json
import os
import re
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from types import SimpleNamespace

import pytest
from playwright.sync_api import BrowserContext, Page, expect

ROOT = Path(__file__).parents[2]
PATIENCE = 120_000  # a busy machine is no fault (ms)
expect.set_options(timeout=PATIENCE)
FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    return {"executable_path": "/usr/bin/chromium", "args": FLAGS, "headless": True}


@pytest.fixture
def browser_context_args() -> dict[str, object]:
    return {"viewport": {"width": 1280, "height": 800}}


@pytest.fixture
def context(context: BrowserContext) -> BrowserContext:
    """Whoever waits for a page waits long."""
    context.set_default_timeout(PATIENCE)
    return context


def unfold(page: Page, name: str) -> None:
    """Open a fold of a form, if it is not open already."""
    fold = page.locator("details.fold").filter(has=page.locator("summary", has_text=name))
    if fold.get_attribute("open") is None:
        fold.locator("summary").click()


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def environment(home: Path, demo: bool) -> dict[str, str]:
    return os.environ | {
        "FELLWIND_HOME": str(home),
        "PYTHONPATH": str(ROOT / "src"),
        "DJANGO_SETTINGS_MODULE": "fellwind.settings",
        "FELLWIND_DEMO": "1" if demo else "0",
    }


def manage(home: Path, *arguments: str, demo: bool = False) -> str:
    """Run a management command and return what it printed."""
    run = subprocess.run(
        [sys.executable, "-m", "fellwind", *arguments],
        env=environment(home, demo),
        check=True,
        capture_output=True,
        text=True,
    )
    return run.stdout


class Server:
    """The application as ./fellwind starts it; it can be stopped and started on the same data."""

    def __init__(self, home: Path, demo: bool) -> None:
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.home, self.env = home, environment(home, demo)
        self.process: subprocess.Popen[bytes] | None = None
        self.start()

    def start(self) -> None:
        command = [
            sys.executable,
            "-m",
            "fellwind",
            "run",
            f"--port={self.port}",
        ]
        self.process = subprocess.Popen(command, env=self.env, stderr=subprocess.DEVNULL)
        for _ in range(1200):
            try:
                urllib.request.urlopen(f"{self.address}/login/", timeout=2)
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("the server did not start")

    def stop(self) -> None:
        """Stop at once, as a power cut would."""
        if self.process is not None:
            self.process.kill()
            self.process.wait()
            self.process = None

    def first_link(self) -> str:
        found = re.search(r"http\S+", manage(self.home, "first_link", self.address))
        assert found
        return found[0]


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """A browser takes its time: all but one whole journey are among the slow ones."""
    for item in items:
        if "browser" in item.path.parts and item.path.name != "test_journey.py":
            item.add_marker(pytest.mark.slow)


@pytest.fixture(scope="session")
def homes(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> dict[str, Path]:
    """An empty workshop and a demo workshop, made once for all workers; servers run on copies.

    Maren may sign in to the demo with a password.
    """
    base = tmp_path_factory.getbasetemp()
    shared = base if worker_id == "master" else base.parent
    made = {name: shared / name for name in ("empty", "filled")}
    ready = shared / "homes-are-ready"
    try:
        (shared / "homes").mkdir()  # the first worker makes them
    except FileExistsError:
        for _ in range(600):
            if ready.exists():
                return made
            time.sleep(0.1)
        raise RuntimeError("the workshops were not made") from None
    made["empty"].mkdir()
    manage(made["empty"], "prepare")
    shutil.copytree(made["empty"], made["filled"])
    manage(made["filled"], "load_demo", demo=True)
    password = (
        "from fellwind.people.models import Person as P; p = P.objects.get(username='maren');"
        "p.set_password('heather on the fell'); p.save()"
    )
    manage(made["filled"], "shell", "-c", password)
    ready.touch()
    return made


@pytest.fixture(scope="session")
def screens(homes: dict[str, Path]) -> list[str]:
    """Every screen that the rooms tell of."""
    code = "from tests.screens import screens; import json; print(json.dumps(screens()))"
    found: list[str] = json.loads(manage(homes["filled"], "shell", "-v0", "-c", code, demo=True))
    return found


@pytest.fixture
def empty_shop(homes: dict[str, Path], tmp_path: Path) -> Iterator[Server]:
    """A workshop with nobody in it."""
    server = Server(shutil.copytree(homes["empty"], tmp_path / "home"), demo=False)
    yield server
    server.stop()


@pytest.fixture
def own_demo(homes: dict[str, Path], tmp_path: Path) -> Iterator[Server]:
    """A filled workshop that one test may kill, entered by name and password."""
    server = Server(shutil.copytree(homes["filled"], tmp_path / "home"), demo=False)
    yield server
    server.stop()


@pytest.fixture
def made_demo(homes: dict[str, Path], tmp_path: Path, page: Page) -> Iterator[SimpleNamespace]:
    """A demo workshop of a test's own, entered with its one button, to be changed at will."""
    server = Server(shutil.copytree(homes["filled"], tmp_path / "made"), demo=True)
    page.goto(server.address)
    page.get_by_role("button", name="Open the workshop").click()
    yield SimpleNamespace(page=page, address=server.address)
    server.stop()


@pytest.fixture(scope="session")
def demo_server(
    homes: dict[str, Path], tmp_path_factory: pytest.TempPathFactory
) -> Iterator[Server]:
    """The demo workshop that every screen's tests of a worker share."""
    home = shutil.copytree(homes["filled"], tmp_path_factory.mktemp("shared") / "demo")
    server = Server(home, demo=True)
    yield server
    server.stop()


@pytest.fixture
def demo(demo_server: Server, page: Page) -> SimpleNamespace:
    """The demo workshop, entered with its one button; faults of any page end the test."""
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on(
        "console",
        lambda m: faults.append(m.text) if m.type == "error" and "422" not in m.text else None,
    )
    page.goto(demo_server.address)
    page.get_by_role("button", name="Open the workshop").click()
    page.wait_for_url(f"{demo_server.address}/")
    if (
        page.locator("body").get_attribute("data-world") != "imperial"
    ):  # left so by a test that failed on its way
        page.locator("[data-key=u]").click()
        page.wait_for_selector("body[data-world=imperial]")
    yield SimpleNamespace(page=page, address=demo_server.address, faults=faults)
    assert not faults, faults
