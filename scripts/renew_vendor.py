"""Renew the front-end files under src/fellwind/static/vendor from their npm packages.

Run by hand: ``python scripts/renew_vendor.py``. It needs npm and its registry. The versions to take
are written in PACKAGES below; what was taken, under which licence and with which checksum, goes to
vendor.toml.
Of Bootstrap only the rules stay whose classes the application names: where a class of it is newly
used, run this again.
``--check`` changes nothing and fails when a file no longer matches its checksum.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
import tomllib
from pathlib import Path

from fontTools.merge import Merger, Options
from fontTools.ttLib import TTFont
from used_css import names, used_only

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


# Faces for print, put together of a family's subsets: PDF wants one TrueType file for each face.
FACES: dict[str, dict[str, tuple[str, tuple[str, ...]]]] = {
    "@fontsource/barlow": {
        f"barlow-{weight}.ttf": (
            f"files/barlow-{{}}-{weight}-normal.woff2",
            ("latin", "latin-ext", "vietnamese"),
        )
        for weight in (400, 600)
    },
    "@fontsource/alegreya": {
        f"alegreya-{weight}.ttf": (
            f"files/alegreya-{{}}-{weight}-normal.woff2",
            ("latin", "latin-ext", "vietnamese", "greek", "greek-ext", "cyrillic", "cyrillic-ext"),
        )
        for weight in (400, 700)
    },
}
# Tables that print has no use for, or that cannot be merged: layout, hinting, variations.
NOT_PRINTED = (
    "GPOS", "GSUB", "GDEF", "kern", "DSIG", "STAT", "avar", "HVAR", "MVAR", "fvar", "gvar", "cvar",
    "FFTM", "prep", "fpgm", "cvt ", "gasp", "hdmx", "VDMX", "LTSH",
)  # fmt: skip


def put_together(sources: list[Path], target: Path) -> None:
    """Merge a family's subsets into one TrueType file, without hinting and layout tables."""
    with tempfile.TemporaryDirectory() as folder:
        parts = []
        for k, source in enumerate(sources):
            font = TTFont(source)
            font.flavor = None
            for table in NOT_PRINTED:
                if table in font:
                    del font[table]
            font["glyf"].removeHinting()
            parts.append(f"{folder}/{k}.ttf")
            font.save(parts[-1])
        Merger(options=Options(drop_tables=list(NOT_PRINTED))).merge(parts).save(target)


def checksum(path: Path) -> str:
    """Return the SHA-256 of a file as hexadecimal text."""
    return hashlib.sha256(path.read_bytes()).hexdigest()


def check() -> int:
    """Compare every vendored file with the checksum written down for it."""
    listed = {
        f["path"]: f["sha256"]
        for p in tomllib.loads(LIST.read_text())["package"]
        for f in p["file"]
    }
    present = {p.name for p in TARGET.iterdir() if p != LIST}
    wrong = [
        name
        for name, sha in listed.items()
        if name not in present or checksum(TARGET / name) != sha
    ]
    wrong += sorted(present - set(listed))
    for name in wrong:
        print(f"vendor: {name} does not match vendor.toml")
    return 1 if wrong else 0


def renew() -> None:
    """Fetch each package through npm, copy the wanted files and write vendor.toml."""
    os.environ["SOURCE_DATE_EPOCH"] = "0"  # the same files whenever it is run
    shutil.rmtree(TARGET, ignore_errors=True)
    TARGET.mkdir(parents=True)
    lines = [
        "# Third-party front-end files shipped with Fellwind. Written by scripts/renew_vendor.py.\n"
    ]
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
            lines.append(
                f'\n[[package]]\nname = "{name}"\nversion = "{version}"\nlicence = "{licence}"\n'
            )
            for source, target in wanted.items():
                shutil.copyfile(package / source, TARGET / target)
                if target.endswith(".css"):
                    sheet = (TARGET / target).read_text()
                    (TARGET / target).write_text(used_only(sheet, names()))
            faces = FACES.get(name, {})
            for target, (form, subsets) in faces.items():
                put_together([package / form.format(one) for one in subsets], TARGET / target)
            for target in (*wanted.values(), *faces):
                lines.append(
                    f'[[package.file]]\npath = "{target}"\nsha256 = "{checksum(TARGET / target)}"\n'
                )
    LIST.write_text("".join(lines))


if __name__ == "__main__":
    sys.exit(check() if "--check" in sys.argv else renew())
