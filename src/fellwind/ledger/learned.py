"""What the shop has learned, figure by figure, with its evidence."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from django.urls import reverse
from django.utils.safestring import SafeString

from bowyery.design.usual import KINDS, Kind
from bowyery.making.heat import FIRST, OWN
from bowyery.record.learned import NINETY, QUANTITIES, Evidence, Learned
from bowyery.units.quantity import Units
from fellwind.builds.heating import bends_seen, stays_here
from fellwind.builds.learning import SHOT_IN, UNSHOT, finished_bows
from fellwind.designs.ports import FinishedBow
from fellwind.designs.words import off_book
from fellwind.drawing.learning import Line, Point, learning_picture
from fellwind.shop import learning
from fellwind.shop.models import Workshop


@dataclass(frozen=True)
class Figure:
    """A figure that is learned, as the page tells it.

    Attributes:
        title: of its part of the page.
        teaches: what a bow must have in its log to say anything of it.
        by: what its rows are of: ``wood``, ``what`` or nothing.
    """

    key: str
    title: str
    teaches: str
    used: str
    by: str
    says: Callable[[str, Learned], str]


def _percent(value: float, digits: int = 0) -> str:
    return f"{value * 100:.{digits}f} %"


def _from(name: str, found: Learned, what: str = "bow") -> str:
    count = found.same if name and found.same else found.same + found.others
    return f"from {count} {what}{'s' if count != 1 else ''}"


def _modulus(name: str, found: Learned) -> str:
    differ = f"one bow of it differs from the next by {_percent(found.differ)}"
    return f"Your {name} is {off_book(found.middle, found.sure, found.same)}; {differ}."


def _share(what: str, book: str = "the book says") -> Callable[[str, Learned], str]:
    def says(name: str, found: Learned) -> str:
        digits = 0 if found.book > 0.2 else 1
        here = f"{found.middle * 100:.{digits}f} ± {found.sure * 100:.{digits}f} %"
        return (
            f"{what.format(name=name, here=here)}; {book} {_percent(found.book, digits)}."
            f" {_from(name, found).capitalize()}."
        )

    return says


def _times(what: str, of: str, kind: str) -> Callable[[str, Learned], str]:
    def says(name: str, found: Learned) -> str:
        ends = [found.middle + s * NINETY * found.sure for s in (0, -1, 1)]
        if found.book == 0:  # a logarithm
            ends = [math.exp(end) for end in ends]
        middle, low, high = (max(end, 0.0) for end in ends)
        return (
            f"{what.format(name=name)} {middle:.1f} times {of} ({low:.1f} to {high:.1f}),"
            f" {_from(name, found, kind)}."
        )

    return says


FIGURES = (
    Figure("modulus", "How stiff your wood is",
           "Calipers at three marks of each limb or more, and weights with the same wood on; or a"
           " strip bent over two supports.",
           "in new designs; one that stands keeps what it was made with.",
           "wood", _modulus),
    Figure("set share", "What stays of a bend",
           "The string follow at proof, of a bow bent beyond its limit.",
           "in the string follow of every design.",
           "wood", _share("Of the bend beyond its limit, {name} keeps {here}")),
    Figure("bite", "What your tools take",
           "Strokes of one tool between two looks at the tiller.",
           "in the strokes advised at the tiller.", "what",
           _times("The {name} takes", "what such tools usually do", "bow")),
    Figure("reading", "What your rulers are worth",
           "Straight edges, gaps and tips read at the tiller, look after look.",
           "in how far each reading is believed there, and so in every band.", "what",
           _times("With the {name} your readings scatter", "what a careful hand's do", "bow")),
    Figure("finishing", "What finishing takes of the weight",
           "The weight at the tiller on its full brace, near full draw; and again after finishing,"
           f" or at proof within {UNSHOT} shots.",
           "in the weight to stop at.", "",
           _share("Edges, sanding and coats take {here} of the weight", "you wrote")),
    Figure("shooting", "What shooting in takes of the weight",
           f"The weight at proof, once within {UNSHOT} shots and once after {SHOT_IN} or more.",
           "in the weight to stop at.", "",
           _share("Shooting in takes {here} of the weight", "you wrote")),
    Figure("hysteresis", "What limbs keep of the energy",
           "Weight, arrow and its speed at proof.",
           "in the arrow speed of every design.", "wood",
           _share("Limbs of {name} keep {here} of the energy")),
    Figure("bedding", "How strings bed in",
           "Three brace heights of a string or more, with its pulls.",
           "in how far a new string is forecast to fall.", "wood",
           _times("Strings of {name} bed in", "as far as the book says", "string")),
    Figure("creep", "How strings creep",
           "Three brace heights of a string over a hundred pulls or more.",
           "in how far a string is forecast to fall.", "wood",
           _times("Strings of {name} creep", "as far as the book says", "string")),
)  # fmt: skip


@dataclass(frozen=True)
class Record:
    """A record that is left out: its name, its page, and what it comes from."""

    name: str
    link: str
    words: str


@dataclass(frozen=True)
class Part:
    """A part of the page.

    Attributes:
        says: a sentence for each wood, tool or fibre.
        picture: of all of them; nothing without a record.
        teaches, used: what teaches it, and where it counts.
    """

    title: str
    says: Sequence[str]
    picture: SafeString | str
    odd: Sequence[Record]
    teaches: str
    used: str


@dataclass(frozen=True)
class KindRow:
    """A kind of bow as it is usually made, its follow in words, and the shop's own of it."""

    kind: Kind
    keeps: str
    own: Sequence[FinishedBow]


@dataclass(frozen=True)
class LearnedPage:
    """All that the shop has learned."""

    parts: Sequence[Part]
    bows: int
    kinds: Sequence[KindRow] = ()


def learned_page(shown: Units) -> LearnedPage:
    """Every figure with its records."""
    parts, bows = [], set()
    for figure in FIGURES:
        seen = learning.evidence(figure.key)
        bows |= {one.bow for one in seen if one.bow and figure.key not in ("bedding", "creep")}
        parts.append(_part(figure, seen))
    made = finished_bows()
    kinds = [KindRow(k, k.keeps(shown), [one for one in made if one.kind == k.name]) for k in KINDS]
    return LearnedPage((*parts[:2], _heat(), *parts[2:]), len(bows), kinds)


def _part(figure: Figure, seen: list[Evidence]) -> Part:
    names = sorted({getattr(one, figure.by) for one in seen}) if figure.by else [""] * bool(seen)
    says, lines, odd = [], [], []
    middle = None
    if figure.key in ("finishing", "shooting"):
        middle = getattr(Workshop.get(), f"{figure.key}_loss")
    for name in names:
        mine = [one for one in seen if not figure.by or getattr(one, figure.by) == name]
        what = name if figure.by == "what" else ""
        wood = name if figure.by == "wood" else ""
        found = learning.here(figure.key, wood, what=what, middle=middle, seen=seen)
        counted = [one for one in seen if one.what == what]
        left_out = {id(counted[k]) for k in found.odd}
        says.append(figure.says(name, found))
        points = [Point(_named(figure, o), o.value, o.error, id(o) in left_out) for o in mine]
        lines.append(Line(name or "all bows", found.book, found.before, found.middle, found.sure,
                          points))  # fmt: skip
        odd += [_record(figure, one) for one in mine if id(one) in left_out]
    picture = ""
    if lines:
        write: Callable[[float], str] = _percent
        ticks = SHARES
        if figure.key in ("bite", "reading"):
            write, ticks = _times_words, [k / 2 for k in range(9)]
        elif QUANTITIES[figure.key].log:
            write, ticks = _log_words(figure.key), _log_ticks(figure.key)
        picture = learning_picture(lines, write, ticks, " ".join(says))
    return Part(figure.title, says, picture, odd, figure.teaches, figure.used)


SHARES = [k / 100 for k in (0, 2, 4, 6, 8, 10, 15, 20, 30, 40, 50, 60, 70, 80, 90)]


def _log_ticks(key: str) -> list[float]:
    if key == "modulus":
        return [math.log(1 + k / 100) for k in (-30, -20, -10, 0, 10, 20, 30)]
    return [math.log(k) for k in (0.3, 0.5, 0.7, 1.0, 1.5, 2.0, 3.0)]


def _times_words(value: float) -> str:
    return f"× {value:.1f}"


def _log_words(key: str) -> Callable[[float], str]:
    if key == "modulus":
        return lambda value: f"{(math.exp(value) - 1) * 100:+.0f} %".replace("+0 %", "book")
    return lambda value: _times_words(math.exp(value))


def _named(figure: Figure, one: Evidence) -> str:
    if figure.key in ("bedding", "creep"):
        return "a string"
    return f"no. {one.bow}" if one.bow else "strip"


def _record(figure: Figure, one: Evidence) -> Record:
    link = ""
    if figure.key in ("bedding", "creep"):
        link = reverse("strings:detail", args=[one.bow])
    elif one.bow:
        link = reverse("builds:log", args=[one.bow])
    return Record(_named(figure, one), link, one.words)


def _heat() -> Part:
    """What stays of a bend by heat: learned beside the form that it is asked at."""
    says, lines = [], []
    for way, wood, jobs in bends_seen():
        found = stays_here(way, wood)
        book, spread = FIRST[way]
        says.append(
            f"Of {wood} bent by {way} stays {found.share * 100:.0f} ± {found.spread * 100:.0f} %,"
            f" the book says {_percent(book)}; from {found.records}"
            f" bend{'s' if found.records != 1 else ''}."
        )
        points = [Point(f"no. {number}", share, OWN, False) for number, share in jobs]
        lines.append(Line(f"{wood}, {way}", book, spread, found.share, found.spread, points))
    picture = learning_picture(lines, _percent, SHARES, " ".join(says)) if lines else ""
    return Part(
        "What stays of a bend by heat", says, picture, (),
        "What stayed when a limb was let go from its form.",
        "in how far over the form is set.",
    )  # fmt: skip
