"""A shop of its own on this machine, and visitors that speak to it as browsers do.

The shop runs in a process forked from this one, where everything is loaded already, so that it can
be killed and be back within a twentieth of a second.
"""

from __future__ import annotations

import http.client
import os
import re
import signal
import socket
import sys
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlencode

ROOT = Path(__file__).resolve().parent.parent
FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


def made_ready(home: Path, **more: str) -> None:
    """Load Django for a demo workshop in a folder; before anything of it is imported."""
    for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
        os.environ.setdefault(threads, "1")
    os.environ |= {
        "FELLWIND_HOME": str(home),
        "FELLWIND_DEMO": "1",
        "DJANGO_SETTINGS_MODULE": "fellwind.settings",
    } | more
    sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
    import django

    django.setup()


def filled(home: Path) -> None:
    """The demo workshop, once for a folder; call after :func:`made_ready`."""
    from django.core.management import call_command
    from django.db import connections

    call_command("prepare", verbosity=0)
    call_command("load_demo", verbosity=0)
    connections.close_all()


def free_port() -> int:
    """A port that nobody listens at."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Shop:
    """The application on a port of its own. Make it before threads or a browser are started: a
    process of its own is forked now, and the shop from that one, again and again.
    """

    def __init__(self) -> None:
        self.port = free_port()
        self._ours, theirs = socket.socketpair()
        if os.fork() == 0:
            self._ours.close()
            self._tend(theirs)
        theirs.close()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start it, and wait until it answers."""
        self._told(b"s")
        for _ in range(400):
            try:
                socket.create_connection(("127.0.0.1", self.port), timeout=1).close()
                return
            except OSError:
                time.sleep(0.01)
        raise RuntimeError("the shop did not start")

    def kill(self) -> None:
        """End it as a power cut would."""
        self._told(b"k")

    def close(self) -> None:
        """End it for good."""
        self.kill()
        self._ours.close()

    def _told(self, what: bytes) -> None:
        self._ours.sendall(what)
        if not self._ours.recv(1):
            raise RuntimeError("nobody tends the shop")

    def _tend(self, line: socket.socket) -> None:
        """Start and kill as told, until nobody tells any more."""
        os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
        pid = 0
        while what := line.recv(1):
            if what == b"s" and not pid:
                pid = os.fork()
                if pid == 0:
                    line.close()
                    self._serve()
            elif what == b"k" and pid:
                os.kill(pid, signal.SIGKILL)
                os.waitpid(pid, 0)
                pid = 0
            line.sendall(b".")
        if pid:
            os.kill(pid, signal.SIGKILL)
        os._exit(0)

    def _serve(self) -> None:
        import waitress

        from fellwind.wsgi import application

        waitress.serve(application, host="127.0.0.1", port=self.port, threads=6)
        os._exit(0)


@dataclass
class Answer:
    """What came back: status, headers in lower case, and the body."""

    status: int
    headers: dict[str, str]
    body: bytes

    @property
    def text(self) -> str:
        return self.body.decode(errors="replace")


@dataclass
class Visitor:
    """Somebody with a browser: cookies, and the token that forms need."""

    port: int
    cookies: dict[str, str] = field(default_factory=dict)
    timeout: float = 60.0

    def ask(
        self,
        method: str,
        path: str,
        body: bytes | None = None,
        headers: dict[str, str] | None = None,
    ) -> Answer:
        """One request on a connection of its own; raises OSError while nobody answers."""
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=self.timeout)
        cookie = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        try:
            line.request(method, path, body, {"Cookie": cookie} | (headers or {}))
            found = line.getresponse()
            answer = Answer(
                found.status, {k.lower(): v for k, v in found.getheaders()}, found.read()
            )
            for name, value in found.getheaders():
                if name.lower() == "set-cookie":
                    key, _, rest = value.partition("=")
                    self.cookies[key] = rest.partition(";")[0]
        except http.client.HTTPException as error:
            raise ConnectionError(str(error)) from error
        finally:
            line.close()
        return answer

    def awaited(self, path: str) -> Answer:
        """The first answer of a shop that is just starting."""
        for _ in range(300):
            try:
                return self.get(path)
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("the shop did not start")

    def get(self, path: str) -> Answer:
        return self.ask("GET", path)

    def post(self, path: str, data: dict[str, str], **headers: str) -> Answer:
        """Send a form, with its token."""
        body = urlencode(data).encode()
        kind = {"Content-Type": "application/x-www-form-urlencoded"}
        token = {"X-CSRFToken": self.cookies.get("csrftoken", "")}
        given = {name.replace("_", "-"): value for name, value in headers.items()}
        return self.ask("POST", path, body, kind | token | given)

    @classmethod
    def of_the_demo(cls, port: int) -> Visitor:
        """The demo's maker, signed in."""
        one = cls(port)
        one.get("/login/")
        if one.post("/demo/", {}).status != 302:
            raise RuntimeError("the demo did not open")
        return one


def shown(page: str, form: str = "") -> dict[str, str]:
    """What the fields of a page's form hold, by name: as a browser would send them.

    Args:
        page: markup.
        form: text that the form's opening tag holds; the last form where it is empty.
    """
    import html

    forms = re.findall(r"<form[^>]*>.*?</form>", page, re.S)
    chosen = [f for f in forms if form in f.split(">")[0]]
    found: dict[str, str] = {}
    for tag in re.findall(r"<input[^>]*>", chosen[-1]):
        given = dict(re.findall(r'([\w-]+)="([^"]*)"', tag))
        boxed = given.get("type") in ("checkbox", "radio")
        if "name" in given and not (boxed and " checked" not in tag):
            found[given["name"]] = html.unescape(given.get("value", "on" if boxed else ""))
    for name, text in re.findall(
        r'<textarea[^>]*name="([^"]+)"[^>]*>(.*?)</textarea>', chosen[-1], re.S
    ):
        found[name] = html.unescape(text).lstrip("\n")
    for select in re.findall(r"<select[^>]*>.*?</select>", chosen[-1], re.S):
        name = re.search(r'name="([^"]+)"', select.split(">")[0])
        value = re.search(r'<option value="([^"]*)"[^>]* selected', select) or re.search(
            r'<option value="([^"]*)"', select
        )
        if name and value:
            found[name[1]] = html.unescape(value[1])
    return found


def together(count: int, act) -> list[object]:  # type: ignore[no-untyped-def]
    """Let threads act as close to one another as they can; what each gave, or its error."""
    gate, given = threading.Barrier(count), list[object]([None] * count)

    def run(k: int) -> None:
        gate.wait()
        try:
            given[k] = act(k)
        except Exception as error:  # handed to whoever asked
            given[k] = error

    threads = [threading.Thread(target=run, args=(k,)) for k in range(count)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    return given
