"""The string that is on: its length or brace height, and where the hook pulls it."""

from __future__ import annotations

from bowyery.tiller.kinds.kind import Asked, Help, Kind
from bowyery.tiller.statements import Context, Statement, Tree
from bowyery.units.quantity import Units

_STATES = {
    "long": "string long",
    "low": "string low",
    "full": "string full",
    "short": "string full",
}
ZERO_BRACE = 0.01  # a string that just clears the grip stands about so high (m)
STRING_WORDS = {
    "string long": "long string",
    "string low": "low brace",
    "string full": "full brace",
}


def _string(c: Context) -> tuple[Statement, ...]:
    kind, value = _STATES[c.text("state") or ""], c.length("length")
    if value is not None:
        long = kind == "string long"
        bound = "string on the tree" if long else "brace on the tree"
        c.within(value, bound, "no string length" if long else "no brace height")
    return (Statement(kind, c.part, value),)


def _say_string(s: Statement, tree: Tree, shown: Units) -> str:
    if s.how == "zero":
        return "braced so low that the string just clears the grip"
    said = {
        "string long": "the long string is on",
        "string low": "braced low",
        "string full": "at full brace",
    }[s.kind]
    return said if s.value is None else f"{said}, {shown.length(s.value)}"


def _zero(c: Context) -> tuple[Statement, ...]:
    return (Statement("string low", c.part, ZERO_BRACE, how="zero"),)


def _brace(c: Context) -> tuple[Statement, ...]:
    value = c.length("length") or 0.0
    c.within(value, "brace on the tree", "no brace height")
    return (Statement("brace", c.part, value),)


def _hook(c: Context) -> tuple[Statement, ...]:
    if c.text("length") is None:
        return (Statement("hook", c.part, 0.0),)
    value = (c.length("length") or 0.0) * (-1 if c.text("way") in ("down", "lower") else 1)
    c.within(value, "hook off the middle", "no place for a hook")
    return (Statement("hook", c.part, value),)


def _say_hook(s: Statement, tree: Tree, shown: Units) -> str:
    if not s.value:
        return "pulled at the middle of the grip"
    return f"pulled {shown.length(abs(s.value))} {'above' if s.value > 0 else 'below'} the middle"


ROWS = (
    Kind(
        name="string",
        also=tuple(STRING_WORDS),
        walk="string",
        build=_string,
        say=_say_string,
        forms=("string {state}[ brace][ {length}]",),
        helps=(
            Help("the string that is on: its length, or the brace height",
                 "string low 3, string long 70, string full",
                 "string low 75, string long 1780", "string"),
        ),
    ),
    Kind(
        name="zero brace",
        walk="string",
        build=_zero,
        say=_say_string,
        forms=("zero brace", "string zero", "brace zero"),
        helps=(Help("the string just lies along the grip", "zero brace", "zero brace", "zero"),),
    ),
    Kind(
        name="brace",
        walk="string",
        build=_brace,
        say=lambda s, tree, shown: f"brace height {shown.length(s.value or 0.0)}",
        forms=("brace[ height] {length}",),
        helps=(Help("brace height as measured", "brace 5 7/8", "brace 150", "brace"),),
    ),
    Kind(
        name="hook",
        walk="string",
        build=_hook,
        say=_say_hook,
        forms=(r"hook {length} (?P<way>up|down|upper|lower)", "hook middle"),
        helps=(
            Help("where the hook pulled, off the middle of the grip", "hook 1/2 up", "hook 12 up",
                 "hook"),
        ),
        asked=(
            Asked("hook", "Hook pulled off the middle", "hook",
                  hints=("1/2 up, or middle", "12 up, or middle"), limbs=False),
        ),
    ),
)  # fmt: skip
