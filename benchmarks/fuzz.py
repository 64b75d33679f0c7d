"""Hostile requests and files, by a seeded fuzzer over all routes and roles.

Run by hand:

    python benchmarks/fuzz.py 20000

No answer of 500 or more but those that say why (503, 507), nothing longer than five seconds, no
memory over 600 MB, and data that are whole afterwards. Ends with an error otherwise; a fault is
printed with what was sent, and comes again with the same seed.
"""

from __future__ import annotations

import argparse
import io
import json
import os
import random
import re
import sqlite3
import subprocess
import sys
import tempfile
import time
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote, quote_from_bytes
from uuid import UUID

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from benchmarks.visitor import ROOT, Visitor, filled, made_ready, shown

MOST_MEMORY = 600  # MB
FORMS = (
    "/shop/", "/shop/archers/new/", "/shop/archers/1/", "/shop/gear/new/", "/shop/materials/new/",
    "/staves/new/", "/staves/18/", "/staves/18/edit/", "/designs/new/", "/designs/1/edit/",
    "/designs/1/marks/", "/designs/1/", "/designs/import/", "/builds/new/", "/builds/14/tiller/",
    "/builds/14/tiller/bench/", "/builds/14/proof/", "/builds/17/back/", "/builds/13/strings/",
    "/builds/14/log/", "/password/", "/login/", "/",
)  # fmt: skip
FIGURES = (
    "", " ", "0", "-0", "-1", "1e308", "-1e308", "1e-320", "nan", "inf", "-Infinity", "9" * 5000,
    "1" + "0" * 400, "0." + "0" * 400 + "1", "1/0", "0/0", "5/-3", "1 1/2/3", "½" * 300, "٣٤",
    "１２", "1e5 in", "36 lb in kg", "' OR 1=1 --", "<script>alert(1)</script>", "{{ 7*7 }}", "%s%n%x",
    "\x00", "a\x00b", "\u202e37", "\ufeff40", "e\u0301", "\ud800", "🏹" * 50, "x" * 40_000,
    "37\r\nX: y", "../../etc/passwd", "9999-12-31", "0001-01-01", "10000-01-01", "2026-02-30", "2026-02-30T25:61",
    "9999-12-31T23:59", "0001-01-01T00:00", "-2026-01-01", "None", "null", "[]", "{}", "true", "on",
    "-99999999999999999999", "99999999999999999999", "2147483648", "9223372036854775808", "1.5",
    "upper", "both", "metric", "imperial", "﷽", "ﬁle", "ＭＡＲＥＮ", "maren", "= 1+1", "@cmd",
)  # fmt: skip
LINES = (
    "36 at 21", "gaps 6 and 6", "upper edge 3/16 at 11", "off upper 12 strokes 9 to 14",
    "string full", "string long 99999999999", "off both 1e-300", "25 pulls", "99999999 pulls", "15 min",
    "held 5 min", "taut at 14", "upper tip 3 at 20", "upper offset 1 at 10", "note " + "y" * 900, "; ; ;",
    "at at at", "37 at " + "9" * 990, "gap " * 200, "upper " * 150, "1/" * 400, "36 at 21 " * 90,
)  # fmt: skip
CHARSETS = (
    "utf-8", "utf-16", "utf-7", "latin-1", "rot13", "zip", "base64", "hex", "idna", "no-such", "",
    "unicode_escape", "cp037", "x" * 300,
)  # fmt: skip


@dataclass
class Sent:
    """One request, as it can be printed and sent again."""

    method: str
    path: str
    body: bytes
    headers: dict[str, str]
    role: str

    def words(self) -> str:
        """In a line or two."""
        return (
            f"{self.role} {self.method} {self.path[:200]} {str(self.headers)[:200]}"
            f" {self.body[:300]!r} ({len(self.body)} bytes)"
        )


def _bow() -> str:
    from bowyery.bow import bowfile
    from tests.core.bows import bow

    return bowfile.dumps(bow())


class Fuzzer:
    """Makes requests from what the application's own pages ask."""

    def __init__(self, seed: int, forms: list[tuple[str, dict[str, str]]]) -> None:
        self.chance, self.forms = random.Random(seed), forms
        self.routes, self.sound = routes(), _bow()

    # Everything is chosen by one generator, so that a run comes again with its seed.
    def pick(self, *things: object) -> object:
        return self.chance.choice(things)

    def figure(self) -> str:
        """Something hostile for a field."""
        one = self.chance
        if one.random() < 0.1:
            return str(one.choice(LINES))
        if one.random() < 0.2:
            return str(one.choice((one.uniform(-100, 100), one.randrange(-5, 400), one.random())))
        return str(one.choice(FIGURES))

    def path(self) -> str:
        """An address of the application, its parts filled in well or ill."""
        one, route = self.chance, self.chance.choice(self.routes)

        def part(found: re.Match[str]) -> str:
            kind = found[1].partition(":")[0]
            if kind == "int":
                good = ("1", "5", "14", "17", "18", "13")
                return str(
                    one.choice((*good * 4, "0", "999", "9" * 30, "9" * 4500, "9223372036854775808"))
                )
            good = ("wood", "back", "tiller", "x", "template.pdf", "bow.dxf", "marks.csv")
            return str(
                one.choice((*good, quote(self.figure()[:300].encode("utf-8", "replace"), safe="")))
            )

        where = "/" + re.sub(r"<([^>]+)>", part, route)
        if one.random() < 0.3:
            names = ("page", "check", "step", "d", "design", "first", "second", "x", "y", "flaw",
            "q",
                     "line", "build", "correct", "layout", "stave", "next", "school")  # fmt: skip
            pairs = [(one.choice(names), self.figure()) for _ in range(one.randrange(1, 5))]
            where += "?" + _encoded(pairs)
        return where

    def one(self) -> Sent:
        """The next request."""
        one, role = self.chance, str(self.pick("maker", "maker", "helper", "guest", "stranger"))
        kind, headers = one.random(), self.headers()
        if kind < 0.3:
            method = str(self.pick("GET", "GET", "GET", "HEAD", "OPTIONS", "PUT", "DELETE", "FROB"))
            return Sent(method, self.path(), b"", headers, role)
        if kind < 0.38:
            return self.file(role, headers)
        if kind < 0.44:
            return self.units(role, headers)
        where, fields = one.choice(self.forms)
        data = dict(fields)
        for name in list(data):
            if one.random() < 0.25 and name != "csrfmiddlewaretoken":
                data[name] = self.figure()
            elif one.random() < 0.05:
                del data[name]
        if "form_id" in data:
            data["form_id"] = str(UUID(int=one.getrandbits(128), version=4))
        if one.random() < 0.15:
            where = self.path()
        if one.random() < 0.1:
            data |= {
                "dx": self.figure(),
                "dy": self.figure(),
                "action": str(self.pick("drag", "add", "step", "remove")),
                "name": "upper_width_1",
                "side": "upper",
                "place": self.figure(),
                "number": self.figure(),
            }
        charset = str(one.choice(CHARSETS)) if one.random() < 0.1 else "utf-8"
        headers["Content-Type"] = f"application/x-www-form-urlencoded; charset={charset}"
        return Sent("POST", where, _encoded(list(data.items())).encode(), headers, role)

    def headers(self) -> dict[str, str]:
        """Those that the application looks at, sometimes odd."""
        found: dict[str, str] = {}
        for name, values in {
            "HX-Request": ("true",), "X-Queue": ("1",), "X-Written-Ago": ("5", "-3", "9" * 50, "x"),
            "Accept": ("application/json", "*/*", "text/html;q=x", ""),
            "Referer": ("http://127.0.0.1//elsewhere.example", "http://[", "x" * 5000, "\xff"),
            "HX-Current-URL": ("\xff\xfe", "http://[::", "x"), "Range": ("bytes=5-", "bytes=x"),
            "If-Modified-Since": ("Fri, 31 Feb 99999 25:00:00 GMT", "x"),
            "Accept-Language": ("xx-" * 99,),            "Cookie": ("sessionid=\xff; csrftoken=x", "messages=broken", "=;;="),
            "X-Forwarded-For": ("1.2.3.4",), "X-Forwarded-Host": ("elsewhere.example",),
            "Host": ("127.0.0.1:1", "elsewhere.example", "[::", "a" * 300),
        }.items():  # fmt: skip
            if self.chance.random() < 0.04:
                found[name] = self.chance.choice(values)
        return found

    def units(self, role: str, headers: dict[str, str]) -> Sent:
        """The switch of units, with what is half typed as JSON."""
        rows = [{"name": "x", "kind": "length", "text": self.figure()} for _ in range(3)]
        typed = self.pick(
            json.dumps(rows),
            "[" * 50_000,
            '{"a":' * 20_000,
            "9" * 5000,
            "[1e999]",
            "nul",
            '["x", 5, null]',
            json.dumps([{"name": None, "kind": ["x"], "text": {"y": 1}}]),
            '[{"kind": "length", "text": ' + "9" * 4400 + "}]",
        )
        body = _encoded([("typed", str(typed))]).encode()
        kind = {"Content-Type": "application/x-www-form-urlencoded", "Accept": "application/json"}
        return Sent("POST", "/units/", body, headers | kind, role)

    def file(self, role: str, headers: dict[str, str]) -> Sent:
        """A bow file, or a picture, spoiled in one of many ways."""
        one = self.chance
        if one.random() < 0.5:
            where, name, content = "/designs/import/", "file", self.bow()
            more = {
                "archer": "1",
                "material": "wych elm",
                "name": self.figure()[:60],
                "page_world": "metric",
            }
        else:
            where, name, content = "/staves/18/photos/keep/", "photo", self.picture()
            more = {
                "caption": self.figure()[:150],
                "day": "2026-01-02",
                "at": "",
                "page_world": "metric",
            }
        line = f"b{one.getrandbits(64):x}"
        parts = [
            f'--{line}\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n'.encode()
            + v.encode("utf-8", "surrogatepass") + b"\r\n"
            for k, v in more.items()
        ]  # fmt: skip
        called = one.choice(
            ("bow.json", "x" * 400 + ".json", "../../x.jpg", "\u202egpj.exe", "a\x00.json")
        )
        head = f'--{line}\r\nContent-Disposition: form-data; name="{name}"; filename="{called}"\r\n'
        parts.append(
            head.encode() + b"Content-Type: application/octet-stream\r\n\r\n" + content + b"\r\n"
        )
        body = b"".join(parts) + f"--{line}--\r\n".encode()
        if one.random() < 0.1:
            body = body[: one.randrange(len(body))]
        return Sent(
            "POST",
            where,
            body,
            headers | {"Content-Type": f"multipart/form-data; boundary={line}"},
            role,
        )

    def bow(self) -> bytes:
        """A bow file with figures that no bow has, or that is none."""
        one = self.chance
        text = self.sound
        odd = (
            "1e150",
            "1e308",
            "5e-324",
            "-1",
            "0",
            "1e9",
            "null",
            '"x"',
            "[]",
            "{}",
            "1e999",
            "9" * 5000,
            "true",
            "0.0001",
            "99999",
            "700",
        )
        for _ in range(one.randrange(1, 4)):
            spots = list(re.finditer(r": (-?[\d.]+)", text))
            spot = one.choice(spots)
            text = text[: spot.start(1)] + one.choice(odd) + text[spot.end(1) :]
        if one.random() < 0.1:
            text = text.replace('"limbs"', '"limbs": {}, "limbs"', 1)
        if one.random() < 0.1:
            text = str(
                self.pick(
                    "[" * 99_999, "{}", '"', "﷽", "{" + '"a":{' * 5000, text[: len(text) // 2]
                )
            )
        return text.encode("utf-8", "surrogatepass")

    def picture(self) -> bytes:
        """A picture that is cut, spoiled, huge when unpacked, or none."""
        from PIL import Image

        one, kept = self.chance, io.BytesIO()
        size = one.choice(
            ((1, 1), (64, 48), (20_000, 2), (5000, 4000), (7000, 8000), (30_000, 30_000))
        )
        if size[0] * size[1] > 60_000_000:  # a header only: nobody here unpacks it either
            kept = io.BytesIO(_huge(*size))
        else:
            Image.new(one.choice(("RGB", "L", "P", "RGBA")), size, 90).save(
                kept, one.choice(("PNG", "GIF", "TIFF"))
            )
        content = bytearray(kept.getvalue())
        for _ in range(one.choice((0, 0, 1, 5))):
            content[one.randrange(len(content))] ^= 1 << one.randrange(8)
        return bytes(
            content[: one.randrange(20, len(content) + 1)] if one.random() < 0.2 else content
        )


def _huge(width: int, height: int) -> bytes:
    """A PNG that says it is so large."""
    import struct
    import zlib

    def chunk(kind: bytes, body: bytes) -> bytes:
        return (
            struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        )

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    data = zlib.compress(b"\0" * 100_000)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def _encoded(pairs: list[tuple[str, str]]) -> str:
    """As a form sends it, lone surrogates and all."""

    def part(text: str) -> str:
        return quote_from_bytes(text.encode("utf-8", "surrogatepass"), safe="")

    return "&".join(f"{part(name)}={part(value)}" for name, value in pairs)


def routes() -> list[str]:
    """Every address that the application knows, as it is written there."""
    from django.urls import get_resolver

    return [
        str(app.pattern) + str(one.pattern)
        for app in get_resolver().url_patterns
        for one in app.url_patterns
        if one.name not in ("logout", "open")
    ]


def signed_in(home: Path, port: int) -> dict[str, Visitor]:
    """A visitor of each role."""
    from django.db import connections

    from benchmarks.crowd import session_of

    names = {"maker": "maren", "helper": "ole", "guest": "visitor"}
    found = {role: Visitor(port, {"sessionid": session_of(name)}) for role, name in names.items()}
    connections.close_all()
    found["stranger"] = Visitor(port)
    for one in found.values():
        one.get("/login/" if one is found["stranger"] else "/password/")
    return found


def memory(pid: int) -> int:
    """The most memory a process has had (MB)."""
    status = Path(f"/proc/{pid}/status").read_text()
    return int(re.findall(r"VmHWM:\s+(\d+)", status)[0]) // 1024


def whole(home: Path) -> list[str]:
    """What is not whole in the data."""
    with closing(sqlite3.connect(home / "fellwind.sqlite3")) as data:
        found = [str(row) for row in data.execute("PRAGMA foreign_key_check")]
        found += [row[0] for row in data.execute("PRAGMA integrity_check") if row[0] != "ok"]
        half = "SELECT count(*) FROM builds_entry WHERE kind = 'proof' AND id NOT IN"
        count = data.execute(f"{half} (SELECT entry_id FROM builds_measure)").fetchone()[0]
    return found + ([f"{count} proofs without a figure"] if count else [])


def attack(
    home: Path, server: subprocess.Popen[bytes], port: int, count: int, seed: int, longest: float
) -> list[str]:
    """Send them all; what went wrong."""
    visitors = signed_in(home, port)
    maker = visitors["maker"]
    forms = []
    for page in FORMS:
        text = maker.get(page).text
        for form in re.findall(r"<form[^>]*>.*?</form>", text, re.S):
            action = re.search(r'action="([^"]*)"', form.split(">")[0])
            where = action[1] if action else page
            if 'method="post"' in form and where not in ("/logout/", "/demo/"):
                forms.append((where, shown(form)))
    fuzzer, wrong, slowest = Fuzzer(seed, forms), list[str](), (0.0, "")
    tall = 0
    for number in range(count):
        sent, visitor = fuzzer.one(), visitors["maker"]
        visitor = visitors[sent.role]
        headers = {"X-CSRFToken": visitor.cookies.get("csrftoken", "")} | sent.headers
        before, start = dict(visitor.cookies), time.perf_counter()
        try:
            answer = visitor.ask(
                sent.method, sent.path.encode("ascii", "replace").decode(), sent.body, headers
            )
        except (OSError, UnicodeError, ValueError) as error:
            if server.poll() is not None:
                return [*wrong, f"{number}: the server ended: {sent.words()}"]
            if (
                isinstance(error, OSError)
                and "Broken pipe" not in str(error)
                and "reset" not in str(error)
            ):
                wrong.append(f"{number}: no answer ({error!r}): {sent.words()}")
            continue
        took = time.perf_counter() - start
        slowest = max(slowest, (took, f"{number}: {sent.words()}"))
        if answer.status >= 500 and answer.status not in (503, 507):
            wrong.append(f"{number}: {answer.status} to {sent.words()}")
        grown = memory(server.pid)
        if grown > MOST_MEMORY and grown > tall + 50:
            wrong.append(f"{number}: {grown} MB after {sent.words()}")
        tall = max(tall, grown)
        if took > longest:
            wrong.append(f"{number}: {took:.1f} s for {sent.words()}")
        if sent.method == "HEAD" and answer.body:
            wrong.append(f"{number}: HEAD with a body: {sent.words()}")
        if sent.role != "stranger" and visitor.cookies.get("sessionid") != before.get("sessionid"):
            visitor.cookies = before | {"csrftoken": visitor.cookies.get("csrftoken", "")}
        if number % 500 == 499:
            print(
                f"{number + 1} sent, {memory(server.pid)} MB, slowest {slowest[0]:.1f} s",
                flush=True,
            )
            visitors = signed_in(home, port)
        if len(wrong) > 30:
            break
    most = memory(server.pid)
    if most > MOST_MEMORY:
        wrong.append(f"{most} MB of memory")
    print(f"{number + 1} requests, slowest {slowest[0]:.1f} s: {slowest[1][:300]}, {most} MB")
    return wrong + whole(home)


def main() -> int:
    """Run it; 1 where anything broke."""
    asked = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    asked.add_argument("count", type=int, nargs="?", default=20_000)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--longest", type=float, default=5.0, help="that an answer may take (s)")
    given = asked.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        made_ready(home)
        filled(home)
        from benchmarks.visitor import free_port

        port = free_port()
        log = (home / "server.log").open("wb")
        server = subprocess.Popen(
            [sys.executable, "-m", "fellwind", "run", "--port", str(port)],
            env=os.environ | {"PYTHONPATH": str(ROOT / "src")}, stdout=log, stderr=log,
        )  # fmt: skip
        try:
            Visitor(port).awaited("/login/")
            wrong = attack(home, server, port, given.count, given.seed, given.longest)
        finally:
            server.kill()
            server.wait()
        told = (home / "server.log").read_text(errors="replace")
        traces = re.findall(
            r"Internal Server Error.*?\n(?=\S)Traceback.*?\n(?=\S)[^\n]*", told, re.S
        )
        for trace in list(dict.fromkeys(traces))[:10]:
            print(trace[-1500:])
    for line in wrong:
        print(line)
    print("Nothing broke." if not wrong else f"{len(wrong)} faults.")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
