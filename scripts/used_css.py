"""Keep of a style sheet what the application's own templates, scripts and code may name."""

from __future__ import annotations

import re
from pathlib import Path

import tinycss2

SOURCES = Path(__file__).resolve().parent.parent / "src" / "fellwind"


def names() -> set[str]:
    """Every word that stands in a template, a script or the code: whatever could be a class."""
    found: set[str] = set()
    for ending in ("*.html", "*.js", "*.py"):
        for path in SOURCES.rglob(ending):
            if "vendor" not in path.parts:
                found |= set(re.findall(r"[A-Za-z][\w-]*", path.read_text()))
    return found


def _wanted(selectors: str, used: set[str]) -> str:
    """The selectors of a rule whose classes are all used."""
    kept = []
    for one in re.split(r",(?![^(]*\))", selectors):
        classes = set(re.findall(r"\.((?:[\w-]|\\.)+)", re.sub(r":not\([^)]*\)", "", one)))
        if classes <= used:
            kept.append(one.strip())
    return ",".join(kept)


def used_only(text: str, used: set[str]) -> str:
    """The sheet without the rules that nothing names; comments of its licence stay."""
    return "".join(_rules(tinycss2.parse_stylesheet(text), used))


def _rules(rules: list[object], used: set[str]) -> list[str]:
    out = []
    for rule in rules:
        kind = getattr(rule, "type", "")
        if kind == "comment":
            out.append(f"/*{rule.value}*/\n")
        elif kind == "qualified-rule":
            kept = _wanted(tinycss2.serialize(rule.prelude), used)
            if kept:
                out.append(f"{kept}{{{tinycss2.serialize(rule.content)}}}\n")
        elif kind == "at-rule" and rule.content is not None and rule.at_keyword == "media":
            inner = _rules(tinycss2.parse_rule_list(rule.content), used)
            if inner:
                out.append(f"@media{tinycss2.serialize(rule.prelude)}{{{''.join(inner)}}}\n")
        elif kind == "at-rule":
            out.append(rule.serialize() + "\n")
    return out
