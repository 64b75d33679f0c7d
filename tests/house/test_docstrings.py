"""Public docstrings of the core name every argument and attribute, and faults are of a kind."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

SOURCES = Path(__file__).parents[2] / "src"
CORE = sorted((SOURCES / "bowyery").rglob("*.py"))
ALL = [path for path in sorted(SOURCES.rglob("*.py")) if "migrations" not in path.parts]
UNITS = r"Returns:|[Rr]eturn|``\(|\((m|N|J|kg|rad|Pa|m/s|N·m)"


def said_of(node: ast.ClassDef | ast.FunctionDef) -> str:
    return ast.get_docstring(node) or ""


def lacking(nodes: list[ast.stmt], inside: str = "") -> Iterator[str]:
    """What public classes and functions have, but do not tell of."""
    for node in nodes:
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            if any("dataclass" in ast.unparse(one) for one in node.decorator_list):
                parts = [one.target for one in node.body if isinstance(one, ast.AnnAssign)]
                names = [one.id for one in parts if isinstance(one, ast.Name)]
                for name in names:
                    if not name.startswith("_") and not re.search(rf"\b{name}\b", said_of(node)):
                        yield f"{node.name}.{name}"
            yield from lacking(node.body, node.name)
        elif isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            given = [*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs]
            names = [one.arg for one in given if one.arg not in ("self", "cls")]
            if not said_of(node):
                yield f"{inside}.{node.name}"
            if inside and len(names) < 2:
                continue
            for name in names:
                if not re.search(rf"\b{name}\b", said_of(node)):
                    yield f"{inside}.{node.name}({name})"
            answers = node.returns is not None and ast.unparse(node.returns) != "None"
            if answers and len(names) > 1 and not re.search(UNITS, said_of(node)):
                yield f"{inside}.{node.name} -> ?"


@pytest.mark.parametrize("path", CORE, ids=lambda path: str(path.relative_to(SOURCES)))
def test_the_core_tells_shapes_and_units_of_all_it_offers(path: Path) -> None:
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
