"""Name what no page, command or benchmark uses: vulture's list, less what the templates name.

Run by ``.ci/run``; exits with 1 where something is left.
"""

import re
import sys
from pathlib import Path

from vulture import Vulture

ROOT = Path(__file__).parents[1]
ASIDE = ("*/migrations/*", "*/settings.py")
# Called by name: by Django, pydantic, argparse, OpenCV, fontTools, or read with getattr.
CALLED = [
    "Command", "Meta", "*Middleware", "clean*", "process_*", "get_context", "handle", "help",
    "add_arguments", "model_config", "ordering", "abstract", "verbose_name", "template_name",
    "requires_system_checks", "regex", "urlpatterns", "password*", "get_session_auth_fallback_hash",
    "validate", "get_help_text", "RepetitionValidator", "CheckedCache", "_write_content",
    "NoTokens", "strokeDashArray", "hAlign", "msg", "flavor", "*Config",
    "adaptiveThresh*", "minMarker*", "cornerRefinement*",
    "*_text", "DataclassInstance", "UploadedFile",
    "march",  # the march to read, which the compiled one is held against
    "draw_tension", "shot_tension", "radius_mm", "wide_read", "DRAWN", "LOOPBACK",
    "back_root", "back_nock", "belly_root", "belly_nock",
]  # fmt: skip


def main() -> int:
    """Print what is dead."""
    search = Vulture(ignore_names=CALLED, ignore_decorators=["@*answered_by"])
    search.scavenge([str(ROOT / name) for name in ("src", "benchmarks", "scripts")], exclude=ASIDE)
    told = [
        path.read_text()
        for ending in ("*.html", "*.js", "*.toml")
        for path in (ROOT / "src").rglob(ending)
        if "vendor" not in path.parts
    ]
    shown = set(re.findall(r"\w+", "\n".join(told)))
    for path in (ROOT / "src").rglob("*.py"):  # names in quotes, module:function, fields of forms
        for quoted, field in re.findall(
            r"[\":](\w+)\"|^ {4}(\w+) = .*Field\(", path.read_text(), re.MULTILINE
        ):
            shown.add(quoted or field)
    dead = [one for one in search.get_unused_code() if one.name not in shown]
    for one in dead:
        print(f"{one.filename.relative_to(ROOT)}:{one.first_lineno} {one.typ} {one.name}")
    return min(len(dead), 1)


if __name__ == "__main__":
    sys.exit(main())
