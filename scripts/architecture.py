"""Write the part of docs/architecture.md that follows from the code: every module with its first
line. Run by hand after modules come or go; ``tests/house/test_architecture.py`` says when.
"""

from __future__ import annotations

import ast
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "architecture.md"
BEGIN, END = "<!-- from the code: scripts/architecture.py -->\n", "<!-- end -->\n"
ASIDE = {"migrations", "templates", "static", "__pycache__", "management", "templatetags"}
SAME = {"apps.py", "urls.py", "views.py", "forms.py", "models.py", "__init__.py"}  # of every room


def first_line(path: Path) -> str:
    """What a module says of itself, up to its first stop."""
    said = ast.get_docstring(ast.parse(path.read_text())) or ""
    return " ".join(said.split("\n\n")[0].split()).split(". ")[0].rstrip(".")


def folder(path: Path) -> list[str]:
    """A package with its modules, a line each."""
    said = first_line(path / "__init__.py") if (path / "__init__.py").exists() else ""
    lines = [f"\n**`{path.relative_to(ROOT / 'src')}/`** {said}\n"]
    for one in sorted(path.glob("*.py")):
        if one.name not in SAME and (told := first_line(one)):
            lines.append(f"- `{one.stem}`: {told}")
    return lines


def written() -> str:
    """The whole part."""
    lines: list[str] = []
    for package in ("bowyery", "fellwind"):
        for path in sorted(p for p in (ROOT / "src" / package).iterdir() if p.is_dir()):
            if path.name not in ASIDE:
                lines += folder(path)
    return BEGIN + "\n".join(lines) + "\n\n" + END


def page(text: str) -> str:
    """The page with that part as the code has it now."""
    before, rest = text.split(BEGIN)
    return before + written() + rest.split(END)[1]


if __name__ == "__main__":
    PAGE.write_text(page(PAGE.read_text()))
