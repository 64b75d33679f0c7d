"""The shop as it is served: where it answers, behind a proxy, over HTTPS, and what it writes."""

import http.client
import os
import re
import shutil
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from fellwind.kit.network import as_host, is_everywhere, reached_at
from tests.web.command import ROOT, run

SECURE = {"FELLWIND_URL": "https://bows.example", "FELLWIND_PROXY": "127.0.0.1"}


class Served:
    """A shop that is served at 127.0.0.2, and asked from 127.0.0.1."""

    come_from = "127.0.0.1"

    def __init__(self, home: Path, **more: str) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.2", 0))
            self.port = int(probe.getsockname()[1])
        told = {
            "FELLWIND_HOME": str(home),
            "PYTHONPATH": str(ROOT / "src"),
            "FELLWIND_HOST": "127.0.0.2",
        }
        self.log = home / "log"
        with self.log.open("wb") as log:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "fellwind", "run", "--port", str(self.port)],
                env=os.environ | told | more, stdout=log, stderr=log,
            )  # fmt: skip
        for _ in range(150):
            try:
                socket.create_connection(("127.0.0.2", self.port), timeout=1).close()
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError(self.log.read_text())

    def ask(self, method: str, path: str, **headers: str) -> http.client.HTTPResponse:
        line = http.client.HTTPConnection(
            "127.0.0.2", self.port, timeout=20, source_address=(self.come_from, 0)
        )
        line.request(method, path, headers={k.replace("_", "-"): v for k, v in headers.items()})
        return line.getresponse()


@pytest.fixture(scope="module")
def home(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("served")
    os.umask(0o022)
    (folder / "photos").mkdir(mode=0o755)
    (folder / "photos" / "a.jpg").write_bytes(b"x")
    assert run(folder, "prepare").returncode == 0
    return folder


@pytest.fixture(scope="module")
def served(home: Path) -> Iterator[Served]:
    shop = Served(home)
    yield shop
    shop.process.kill()
    shop.process.wait()


def test_it_answers_at_the_address_it_prints(served: Served) -> None:
    answer = served.ask("GET", "/login/")
    assert answer.status == 200 and b"Sign in" in answer.read()
    assert served.ask("GET", "/login/", Host="elsewhere.example").status == 400
    head = served.ask("HEAD", "/login/")
    assert head.status == 200 and int(head.headers["Content-Length"]) > 1000 and head.read() == b""
    assert "Secure" not in answer.headers["Set-Cookie"]
    assert "Strict-Transport-Security" not in answer.headers


def test_too_large_a_body_is_refused_while_it_arrives(served: Served) -> None:
    """Two hundred megabytes to the sign-in page: nobody waits for them to arrive."""
    with socket.create_connection(("127.0.0.2", served.port), timeout=20) as line:
        line.sendall(
            b"POST /login/ HTTP/1.1\r\nHost: 127.0.0.2\r\nContent-Length: 200000000\r\n"
            b"Content-Type: application/x-www-form-urlencoded\r\n\r\nusername="
        )
        assert b" 413 " in line.recv(4000).splitlines()[0]
    with socket.create_connection(("127.0.0.2", served.port), timeout=20) as line:
        line.sendall(
            b"POST /login/ HTTP/1.1\r\nHost: 127.0.0.2\r\nTransfer-Encoding: chunked\r\n\r\n"
        )
        piece, sent = b"100000\r\n" + b"x" * 0x100000 + b"\r\n", 0
        try:
            for _ in range(200):
                line.sendall(piece)
                sent += 1
        except OSError:
            pass
        assert sent < 120


def test_what_it_writes_is_for_its_owner_alone(home: Path, served: Served) -> None:
    served.ask("GET", "/login/").read()
    assert home.stat().st_mode & 0o77 == 0
    open_to_all = [p.name for p in home.rglob("*") if p.name != "log" and p.stat().st_mode & 0o77]
    assert not open_to_all


def test_behind_a_proxy_over_https(home: Path) -> None:
    other = home.with_name("secure")
    shutil.copytree(home, other, ignore=shutil.ignore_patterns("in-use", "log"))
    shop = Served(other, **SECURE)
    told = {"Host": "bows.example", "X_Forwarded_Proto": "https", "X_Forwarded_For": "10.1.2.3"}
    try:
        answer = shop.ask("GET", "/login/", **told)
        assert answer.status == 200 and "Secure" in answer.headers["Set-Cookie"]
        assert answer.headers["Strict-Transport-Security"].startswith("max-age=31536000")
        # only the proxy's own word counts
        shop.come_from = "127.0.0.3"
        answer = shop.ask("GET", "/login/", **told)
        assert answer.status == 301 and answer.headers["Location"] == "https://bows.example/login/"
    finally:
        shop.process.kill()
        shop.process.wait()


def asked(home: Path, code: str, **env: str) -> str:
    """What a shell of the application prints."""
    given = os.environ | {"FELLWIND_HOME": str(home), "PYTHONPATH": str(ROOT / "src")} | env
    done = subprocess.run(
        [sys.executable, "-m", "fellwind", "shell", "-v0", "-c", code],
        env=given, capture_output=True, text=True, check=True,
    )  # fmt: skip
    return done.stdout


def test_invitations_and_origins_follow_the_public_address(home: Path) -> None:
    code = (
        "from django.conf import settings as s; from django.test import Client\n"
        "from fellwind.people.models import Person\n"
        "print(s.ALLOWED_HOSTS, s.CSRF_TRUSTED_ORIGINS, s.SESSION_COOKIE_SECURE)\n"
        "p = Person.objects.create_user('tern'); c = Client(HTTP_HOST='bows.example')\n"
        "c.force_login(p, 'django.contrib.auth.backends.ModelBackend')\n"
        "print(c.post('/shop/invite/', {'role': 'helper'}, secure=True).content.decode())\n"
        "p.delete()"
    )
    told = asked(home, code, **SECURE)
    assert "'bows.example'" in told and "['https://bows.example'] True" in told
    assert re.search(r"https://bows\.example/join/[\w-]{20,}/", told)


def test_the_deployment_check_is_clean(home: Path) -> None:
    given = os.environ | {"FELLWIND_HOME": str(home), "PYTHONPATH": str(ROOT / "src")} | SECURE
    given.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)  # of the tests
    done = subprocess.run(
        [sys.executable, "-m", "fellwind", "check", "--deploy", "--fail-level", "INFO"],
        env=given, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr


def test_where_a_shop_is_reached() -> None:
    assert reached_at("127.0.0.2") == ["127.0.0.2"] and reached_at("::1") == ["[::1]"]
    everywhere = reached_at("0.0.0.0")
    assert socket.gethostname().lower() in everywhere
    assert is_everywhere("::") and is_everywhere("[::]") and not is_everywhere("bench.local")
    assert as_host("fe80::1") == "[fe80::1]" and as_host("bench.local") == "bench.local"
