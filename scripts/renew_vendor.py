"""Renew the front-end files under src/fellwind/static/vendor from their npm packages.

Run by hand: ``python scripts/renew_vendor.py``. It needs npm and its registry. The versions to take are
written in PACKAGES below; what was taken, under which licence and with which checksum, goes to vendor.toml.
``--check`` changes nothing and fails when a file no longer matches its checksum.
"""

from __future__ import annotations

import hashlib
import json
import shutil
import subprocess
import sys
import tarfile
import tempfile
import tomllib
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
TARGET = ROOT / "src" / "fellwind" / "static" / "vendor"
LIST = TARGET / "vendor.toml"

# package, version, and which of its files go where
PACKAGES: list[tuple[str, str, dict[str, str]]] = [
    ("htmx.org", "2.0.8", {"dist/htmx.min.js": "htmx.min.js", "LICENSE": "htmx.LICENSE"}),
    (
        "bootstrap",
        "5.3.8",
        {"dist/css/bootstrap.min.css": "bootstrap.min.css", "LICENSE": "bootstrap.LICENSE"},
    ),
    (
        "@fontsource/alegreya",
        "5.3.0",
        {
            "files/alegreya-latin-700-normal.woff2": "alegreya-latin-700.woff2",
            "files/alegreya-latin-ext-700-normal.woff2": "alegreya-latin-ext-700.woff2",
            "LICENSE": "alegreya.LICENSE",
        },
    ),
    (
        "@fontsource/barlow",
        "5.3.0",
        {
            **{
                f"files/barlow-{part}-{weight}-normal.woff2": f"barlow-{part}-{weight}.woff2"
                for part in ("latin", "latin-ext")
                for weight in (400, 500, 600)
            },
            "LICENSE": "barlow.LICENSE",
        },
    ),
]


def checksum(path: Path) -> str:
    """Return the SHA-256 of a file as hexadecimal text."""
    return hashlib.sha256(path.read_bytes()).hexdigest()


def check() -> int:
    """Compare every vendored file with the checksum written down for it."""
    listed = {f["path"]: f["sha256"] for p in tomllib.loads(LIST.read_text())["package"] for f in p["file"]}
    present = {p.name for p in TARGET.iterdir() if p != LIST}
    wrong = [name for name, sha in listed.items() if name not in present or checksum(TARGET / name) != sha]
    wrong += sorted(present - set(listed))
    for name in wrong:
        print(f"vendor: {name} does not match vendor.toml")
    return 1 if wrong else 0


def renew() -> None:
    """Fetch each package through npm, copy the wanted files and write vendor.toml."""
    shutil.rmtree(TARGET, ignore_errors=True)
    TARGET.mkdir(parents=True)
    lines = ["# Third-party front-end files shipped with Fellwind. Written by scripts/renew_vendor.py.\n"]
    for name, version, wanted in PACKAGES:
        with tempfile.TemporaryDirectory() as folder:
            subprocess.run(
                ["npm", "pack", f"{name}@{version}", "--json", "--silent"],
                cwd=folder, check=True, capture_output=True, text=True,
            )  # fmt: skip
            archive = next(Path(folder).glob("*.tgz"))
            with tarfile.open(archive) as tar:
                tar.extractall(folder, filter="data")
            package = Path(folder) / "package"
            licence = json.loads((package / "package.json").read_text())["license"]
            lines.append(f'\n[[package]]\nname = "{name}"\nversion = "{version}"\nlicence = "{licence}"\n')
            for source, target in wanted.items():
                shutil.copyfile(package / source, TARGET / target)
                lines.append(f'[[package.file]]\npath = "{target}"\nsha256 = "{checksum(TARGET / target)}"\n')
    LIST.write_text("".join(lines))


if __name__ == "__main__":
    sys.exit(check() if "--check" in sys.argv else renew())
