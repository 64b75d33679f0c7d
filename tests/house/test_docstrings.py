"""Docstrings say what code cannot (units, shapes, meaning), and faults are of a kind."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

SOURCES = Path(__file__).parents[2] / "src"
CORE = sorted((SOURCES / "bowyery").rglob("*.py"))
ALL = [path for path in sorted(SOURCES.rglob("*.py")) if "migrations" not in path.parts]
UNITS = (
    r"``\(|\d|%|None|key of|share|radians|"
    r"\((m|N|J|kg|g|s|K|h|mm|SI|Hz|rad|Pa|lb|in|°)\b|\([^)]*\b(m|N|J|kg|rad|Pa|1/m)\)"
)
NUMBERS = r"\bfloat\b|Floats|ndarray|complex"


def said_of(node: ast.ClassDef | ast.FunctionDef) -> str:
    return ast.get_docstring(node) or ""


def figures(node: ast.ClassDef | ast.FunctionDef) -> list[str]:
    """Names of the numbers that a dataclass holds or a function takes."""
    if isinstance(node, ast.ClassDef):
        if not any("dataclass" in ast.unparse(one) for one in node.decorator_list):
            return []
        # a row of a table tells of itself
        parts = [
            one
            for one in node.body
            if isinstance(one, ast.AnnAssign)
            and not (
                isinstance(one.value, ast.Call) and ast.unparse(one.value.func).startswith("_")
            )
        ]
        told = [(ast.unparse(one.target), one.annotation) for one in parts]
    else:
        given = [*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs]
        told = [(one.arg, one.annotation) for one in given if one.annotation is not None]
    return [
        name
        for name, kind in told
        if re.search(NUMBERS, ast.unparse(kind)) and not name.startswith("_")
    ]


def lacking(nodes: list[ast.stmt], inside: str = "") -> Iterator[str]:
    """Public classes and functions without a docstring, and numbers that theirs does not tell."""
    for node in nodes:
        if not isinstance(node, ast.ClassDef | ast.FunctionDef) or node.name.startswith("_"):
            continue
        if isinstance(node, ast.FunctionDef) and not said_of(node):
            yield f"{inside}.{node.name}"
        for name in figures(node):
            alone = inside and len(figures(node)) < 2 and isinstance(node, ast.FunctionDef)
            if not alone and not re.search(rf"\b{name}\b", said_of(node)):
                yield f"{inside}.{node.name}({name})"
        if isinstance(node, ast.ClassDef):
            yield from lacking(node.body, node.name)


@pytest.mark.parametrize("path", ALL, ids=lambda path: str(path.relative_to(SOURCES)))
def test_no_line_of_a_docstring_only_repeats_a_name(path: Path) -> None:
    idle = []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ClassDef | ast.FunctionDef):
            lines = said_of(node).splitlines()
            for line, after in zip(lines, [*lines[1:], ""], strict=False):
                found = re.match(r"    (?!\w+Error)[*\w, ]+: (.+)$", line)
                if found and not after.startswith("      "):
                    short = len(found[1].split()) <= 3 and not re.search(UNITS, found[1])
                    idle += [f"{node.name}: {line.strip()}"] * short
    assert idle == []


@pytest.mark.parametrize("path", CORE, ids=lambda path: str(path.relative_to(SOURCES)))
def test_the_core_tells_of_every_figure_it_takes(path: Path) -> None:
    assert list(lacking(ast.parse(path.read_text()).body)) == []


def test_every_except_names_what_it_expects() -> None:
    """No fault is swallowed unseen: neither a bare except nor one of everything."""
    wide = []
    for path in ALL:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ExceptHandler):
                caught = "" if node.type is None else ast.unparse(node.type)
                if re.search(r"^$|\b(Base)?Exception\b", caught):
                    wide.append(f"{path.relative_to(SOURCES)}:{node.lineno}")
    assert wide == []


def test_mistakes_of_callers_are_answered_with_errors_not_assertions() -> None:
    """An assertion in the core only narrows a type: it tests for None, and nothing a caller
    gave.
    """
    judged = []
    for path in CORE:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Assert) and "is not None" not in ast.unparse(node.test):
                judged.append(f"{path.relative_to(SOURCES)}:{node.lineno}")
    assert judged == []
