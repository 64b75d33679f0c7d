"""Strings of this shop: rows into the core's orders, and what was read of them into answers."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING, Any
from uuid import UUID

from django.db import transaction
from django.db.models import Prefetch, QuerySet

from bowyery.bow.bow import Bow, StringLine
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.mechanics.dynamics import USUAL_ARROW
from bowyery.strings.breaking import Bears, StripFit, strand_bears, strip_fit, strip_width
from bowyery.strings.fit import Swing, swings
from bowyery.strings.kinds import string_kind
from bowyery.strings.length import Cord, CordPair, from_cord, thumb
from bowyery.strings.match import ALLOWED, Swapped, swapped
from bowyery.strings.plan import StringOrder, StringPlan, plan_string
from bowyery.strings.price import Price, price
from bowyery.strings.settle import BraceRead, Settles, Settling, settling
from bowyery.strings.strength import SCHOOL_ONE_DRAW
from bowyery.strings.twist import turns_for, twist_shortening
from bowyery.units.quantity import FINE_SPEED, INCH, Units, World
from bowyery.wood.materials import Fibre
from fellwind.builds.models import Build, Entry
from fellwind.builds.ports import AS_TILLERED, CARD_ROWS, STRING_ON
from fellwind.builds.services import standing_entries
from fellwind.designs.services import try_solution
from fellwind.kit.cache import computed
from fellwind.people.models import Person
from fellwind.shop.book import fibre as fibre_named
from fellwind.strings.belief import belief
from fellwind.strings.models import BowString, StrandTest, StringEntry, Thread

if TYPE_CHECKING:
    from fellwind.strings.forms import TestForm

NEAR_FIFTEEN, NEAR_FULL = 0.05, 0.012  # of the draws that weights count for (m)
SAME_LOAD = 0.15  # two loads that differ by less stretch two strings alike
REPLACE_AFTER = {True: 2000, False: 5000}  # shots of a natural and of a smooth string
WAX_AFTER = 300  # shots


def strings() -> QuerySet[BowString]:
    """All strings, with what their pages need."""
    tests = StrandTest.objects.filter(struck_by=None).exclude(load=None)
    return BowString.objects.select_related(
        "build", "build__design", "build__design__archer", "build__stave", "thread", "like"
    ).prefetch_related(
        "entries", "entries__struck_by", Prefetch("thread__tests", tests, to_attr="standing_tests")
    )


def standing_tests(thread: Thread) -> list[StrandTest]:
    """Tests of a thread that count."""
    if hasattr(thread, "standing_tests"):
        found: list[StrandTest] = thread.standing_tests
        return found
    return list(thread.tests.filter(struck_by=None).exclude(load=None))


def standing(string: BowString) -> list[StringEntry]:
    """Entries of a string that count, oldest first; those of one moment in the order written."""
    if string.pk is None:
        return []
    rows = list(string.entries.all())
    struck = {one.strikes_id for one in rows if one.strikes_id}
    return [one for one in rows if one.strikes_id is None and one.pk not in struck]


def fibre_of(string: BowString) -> Fibre:
    """The fibre of a string's strands, as fine as its thread is."""
    return thread_fibre(string.thread) if string.thread else fibre_named(string.fibre)


def thread_fibre(thread: Thread) -> Fibre:
    """A thread as the core knows it: the book's fibre, as heavy and so as strong as this thread."""
    book = fibre_named(thread.fibre)
    if thread.line_mass is None:
        return book
    share = thread.line_mass / book.line_mass
    return replace(book, line_mass=thread.line_mass, breaking_force=share * book.breaking_force)


@dataclass(frozen=True)
class Tested:
    """A thread with what its tests say.

    Attributes:
        strip: of strips by width, where some were tested.
    """

    thread: Thread
    fibre: Fibre
    strands: tuple[StrandTest, ...]
    strips: tuple[StrandTest, ...]
    bears: Bears | None
    strip: StripFit | None = None
    trouble: str = ""


def tested(thread: Thread) -> Tested:
    """A thread and its tests."""
    rows = standing_tests(thread)
    strands = tuple(one for one in rows if one.width is None)
    strips = tuple(one for one in rows if one.width is not None)
    of = thread_fibre(thread)
    try:
        bears = strand_bears(of, [one.load or 0.0 for one in strands])
        strip = (
            strip_fit(of, [(one.width or 0.0, one.load or 0.0) for one in strips])
            if strips
            else None
        )
    except DescriptionError as error:
        return Tested(thread, of, strands, strips, None, trouble=error.reason)
    return Tested(thread, of, strands, strips, bears, strip)


def breaks_of(string: BowString) -> tuple[float, ...]:
    """Loads at which strands of its thread broke (N)."""
    if string.thread is None:
        return ()
    return tuple(t.load for t in standing_tests(string.thread) if t.load and t.width is None)


@dataclass(frozen=True)
class OnBow:
    """The bow that a string is for.

    Attributes:
        bow: as it is tillered where that is known, else as designed; without a string's length.
        tillered: it is as read at the tiller.
        weight: at full draw (N), measured or wanted.
        draw: (m).
        fifteen: weight at 15 in, from a reading near it (N), or None.
        arrow: its mass (kg).
    """

    bow: Bow
    tillered: bool
    weight: float
    draw: float
    measured: bool
    fifteen: float | None
    arrow: float


def on_bow(build: Build, found: Solution) -> OnBow:
    """The bow of a build as its strings see it."""
    known = AS_TILLERED.first(build)
    bow, tillered = known or found.bow, known is not None
    draw, weight = found.wanted.draw, found.wanted.weight
    brace = bow.brace_height or 0.15
    full, near = None, None
    for entry in standing_entries(build):
        for one in entry.measures.all():
            if one.kind not in ("weight", "pull") or one.draw is None or not one.value:
                continue
            if abs(one.draw - draw) < NEAR_FULL:
                full = one.value
            if abs(one.draw - SCHOOL_ONE_DRAW) < NEAR_FIFTEEN:
                # weight grows as good as evenly from brace on
                near = one.value * (SCHOOL_ONE_DRAW - brace) / (one.draw - brace)
    if near is not None and near >= (full or weight) and draw > 1.1 * SCHOOL_ONE_DRAW:
        near = None  # read while the bow was heavier than it is to be
    arrow = build.design.figures.arrow or USUAL_ARROW * (full or weight)
    return OnBow(bow, tillered, full or weight, draw, full is not None, near, arrow)


def order_of(string: BowString, fifteen: float | None = None) -> StringOrder:
    """What a string's row asks of its plan."""
    quarter = string.silencers_at or string.build.design.length / 4
    return StringOrder(
        string_kind(string.kind), fibre_of(string), breaks_of(string), string.rule,
        string.strands, string.plies, string.turns, string.own_length,
        (string.loop_upper, string.loop_lower), string.throat, string.serving,
        string.serving_above, string.nock_above, string.serving_thread, string.pieces,
        string.piece, (string.silencers, quarter if string.silencers else 0.0), fifteen,
    )  # fmt: skip


def planned(string: BowString, on: OnBow) -> StringPlan:
    """Plan a string for its bow; raises BowyeryError."""
    bow = replace(on.bow, brace_height=string.brace_height, string_length=None)

    def plan(order: StringOrder) -> StringPlan:
        key = (on.weight, on.draw, bow, order)
        return computed("string", key, lambda: plan_string(bow, on.weight, on.draw, order))

    order = order_of(string, on.fifteen)
    strips = strips_of(string)
    if strips is None:
        return plan(order)
    order = replace(order, strands=order.bundles)  # each ply is one strip
    width = string.strip or strip_needed(strips, plan(order).needed, order)
    return plan(_in_strips(order, strips, width))


def strips_of(string: BowString) -> StripFit | None:
    """What strips of a string's hide bear by their width, where that was tested."""
    if string.thread is None or "plied" not in string.kind:
        return None
    return tested(string.thread).strip


def strip_needed(strips: StripFit, needed: float, order: StringOrder) -> float:
    """Width of each strip so that the plies bear what is needed, up to the next 64th of an inch."""
    width = strip_width(strips, needed, order.bundles, order.kind.keeps)
    return math.ceil(width / (INCH / 64) - 1e-6) * INCH / 64


def _in_strips(order: StringOrder, strips: StripFit, width: float) -> StringOrder:
    """The same string of strips so wide: each as heavy and as strong as its width."""
    share = width / (0.5 * sum(strips.widths))
    fibre = replace(
        order.fibre, line_mass=share * order.fibre.line_mass,
        breaking_force=strips.each * width,
    )  # fmt: skip
    one = strips.bears
    bears = replace(one, mean=one.mean * width, spread=one.spread * width, low=one.low * width)
    return replace(order, fibre=fibre, breaks=(), bears=bears)


@dataclass
class Sheet:
    """A string with its plan, or why there is none, and what was read of it."""

    string: BowString
    on: OnBow | None
    plan: StringPlan | None
    trouble: str = ""

    @cached_property
    def entries(self) -> list[StringEntry]:
        """That count."""
        return standing(self.string)

    @cached_property
    def newest(self) -> dict[str, StringEntry]:
        """The last of each kind."""
        return {one.kind: one for one in self.entries}

    def read(self, kind: str) -> float | None:
        """A figure as it was read last (SI), or None."""
        one = self.newest.get(kind)
        return None if one is None else one.value

    @property
    def length(self) -> float | None:
        """As measured, or as planned (m)."""
        measured = self.read("length")
        return measured if measured else self.plan.length if self.plan else None

    @property
    def mass(self) -> float | None:
        """As weighed, or as planned (kg)."""
        weighed = self.read("mass")
        return weighed if weighed else self.plan.mass if self.plan else None

    @property
    def turns(self) -> int:
        """In it now."""
        begun = self.plan.twist.turns if self.plan else 0
        return begun + round(sum(e.value or 0.0 for e in self.entries if e.kind == "twist"))

    @property
    def shots(self) -> int:
        """Counted so far."""
        return round(sum(e.value or 0.0 for e in self.entries if e.kind == "shots"))

    @property
    def shots_since_wax(self) -> int:
        """Counted since it was waxed last."""
        count = 0.0
        for one in self.entries:
            if one.kind == "shots":
                count += one.value or 0.0
            elif one.kind == "waxed":
                count = 0.0
        return round(count)

    @property
    def over(self) -> StringEntry | None:
        """What ended it: it broke, or was put away."""
        return next((e for e in self.entries if e.kind in ("broke", "put away")), None)

    @property
    def is_made(self) -> bool:
        """Whether it is off the jig: something was read of it, or every step is done."""
        readings = ("brace", "length", "mass", "stretch", "shots")
        return any(one.kind in readings for one in self.entries)

    @cached_property
    def settling(self) -> Settling | str | None:
        """How it settles; a sentence where that cannot be said, nothing before a reading."""
        if self.plan is None or not self.plan.brace_per > 0:
            return None
        reads = brace_reads(self.entries, self.plan)
        if not reads:
            return None
        try:
            return settling(
                self.plan.fibre, self.plan.length, self.plan.brace_per, reads, self.belief()
            )
        except DescriptionError as error:
            return error.reason

    def belief(self) -> Settles | None:
        """How such strings settle in this shop; None: as the book says."""
        design = self.string.build.design
        fibre = fibre_of(self.string)
        if design.by_book:
            return None
        return belief(fibre, self.string.pk or 0)

    @property
    def care(self) -> list[str]:
        """What keeping it asks for now, in sentences."""
        said: list[str] = []
        if self.over is not None or self.plan is None:
            return said
        broken = [e for e in self.entries if e.kind == "strand"]
        if broken:
            said.append(
                f"{len(broken)} of its {self.plan.strands} strands"
                f" {'is' if len(broken) == 1 else 'are'} broken: take it off, and put the spare on."
            )
        most = REPLACE_AFTER[self.plan.fibre.natural]
        if self.shots >= most:
            said.append(f"{self.shots} shots: a string of {self.plan.fibre.name} is replaced after"
                        f" some {most}.")  # fmt: skip
        elif self.shots_since_wax >= WAX_AFTER:
            said.append(f"{self.shots_since_wax} shots since it was waxed: wax it again.")
        return said


def brace_reads(entries: Iterable[StringEntry], plan: StringPlan) -> list[BraceRead]:
    """Brace heights in order, each with what twist and loops had taken up until then."""
    turns, shorter, reads = float(plan.twist.turns), 0.0, []
    length = plan.length / (1 + plan.fibre.stretch)
    for one in entries:
        if one.kind == "twist":
            turns += one.value or 0.0
        elif one.kind == "shorter":
            shorter += one.value or 0.0
        elif one.kind == "brace" and one.value:
            twisted = _taken_up(plan, length, turns)
            reads.append(BraceRead(one.pulls or 0, one.value, twisted + shorter))
    return reads


def _taken_up(plan: StringPlan, length: float, turns: float) -> float:
    try:
        now = twist_shortening(plan.diameter, max(turns, 0.0), length)
    except DescriptionError:
        return 0.0
    return now - plan.twist.takes_up


def sheet(string: BowString, on: OnBow | None, trouble: str = "") -> Sheet:
    """A string with its plan."""
    if on is None:
        return Sheet(string, None, None, trouble)
    try:
        return Sheet(string, on, planned(string, on))
    except BowyeryError as error:
        return Sheet(string, on, None, getattr(error, "reason", str(error)))


def sheet_of(string: BowString) -> Sheet:
    """A string with its plan for its own build's bow."""
    found, trouble = try_solution(string.build.design)
    return sheet(string, on_bow(string.build, found) if found else None, trouble)


# What evens a new brace height: turns where twist does it, loops where not.


@dataclass(frozen=True)
class NextAct:
    """What to do with a string now, in words."""

    words: str
    detail: str = ""


def next_act(made: Sheet, shown: Units) -> NextAct:
    """What to do with a string now."""
    plan, string = made.plan, made.string
    if plan is None:
        return NextAct("Mend what stands above.")
    if made.over is not None:
        return NextAct("It is out of use.", made.over.text)
    if made.care:
        return NextAct(made.care[0])
    found = made.settling
    if plan.kind.use != "shoots":
        return NextAct(f"Make it {shown.length(plan.length)} long.", f"{plan.strands} strands")
    if found is None:
        if not any(e.kind == "step" for e in made.entries):
            return NextAct("Make it, step by step.", "the bench view goes through it")
        return NextAct("Brace it, and read the brace height.")
    if isinstance(found, str):
        return NextAct(found)
    turn = plan.brace_per * plan.twist.each
    if not found.settled:
        more = max(5, min(40, round(found.settled_after / 5) * 5 or 20))
        off = string.brace_height - found.brace_now
        if abs(off) < 0.012:
            return NextAct(f"Give it {more} short pulls, then read the brace again.",
                           f"it has not settled: {shown.thickness(found.falls)} more in"
                           f" {100} pulls")  # fmt: skip
    off = string.brace_height - (found.final[0] if found.settled else found.brace_now)
    if abs(off) < max(0.6 * turn, 0.0012):
        return NextAct("It has settled at its height.", "read it again after the next shoot")
    try:
        length = plan.length / (1 + plan.fibre.stretch)
        turns = round(turns_for(plan.kind, plan.diameter, length, made.turns, off / plan.brace_per))
    except DescriptionError:
        way = "shorter" if off > 0 else "longer"
        return NextAct(f"Make it {shown.thickness(abs(off) / plan.brace_per)} {way} at a loop.",
                       "twist alone does not reach it")  # fmt: skip
    if turns == 0:
        return NextAct("It stands within a turn of its height.")
    verb = "Put in" if turns > 0 else "Let out"
    words = f"{verb} {abs(turns)} turn{'' if abs(turns) == 1 else 's'}, brace it, then 20 pulls."
    return NextAct(words, f"one turn moves the brace {shown.thickness(turn)}")


@dataclass(frozen=True)
class Cords:
    """The three ways to a length, and what a test cord's pairs say.

    Attributes:
        thumb: rule of thumb, shortest and longest (m).
        cord: what they say, or None.
    """

    thumb: tuple[float, float]
    pairs: tuple[StringEntry, ...]
    cord: Cord | None
    trouble: str = ""

    @property
    def odd(self) -> list[StringEntry]:
        """Pairs that do not fit."""
        return [self.pairs[k] for k in self.cord.odd] if self.cord else []


def cords(made: Sheet) -> Cords | None:
    """How long the string is to be, three ways."""
    if made.on is None or made.plan is None or made.plan.kind.use != "shoots":
        return None
    bow = replace(made.on.bow, brace_height=made.string.brace_height, string_length=None)
    pairs = tuple(e for e in made.entries if e.kind == "cord")
    short, long = computed("thumb", (bow,), lambda: thumb(bow))
    if not pairs or bow.back_bow is not None:
        return Cords((short, long), pairs, None)
    rows = [CordPair(e.value or 0.0, e.second or 0.0) for e in pairs]
    brace = made.string.brace_height
    try:
        cord = computed("cord", (bow, brace, rows), lambda: from_cord(bow, brace, rows))
    except BowyeryError as error:
        return Cords((short, long), pairs, None, getattr(error, "reason", str(error)))
    return Cords((short, long), pairs, cord)


def priced(made: Sheet) -> Price | None:
    """What its mass costs, or None where the shot cannot be followed."""
    on, plan = made.on, made.plan
    if on is None or plan is None or plan.kind.use != "shoots":
        return None
    mass = made.read("mass")
    key = (on.bow, plan, on.draw, on.arrow, mass)
    try:
        return computed("price", key, lambda: price(on.bow, plan, on.draw, on.arrow, mass))
    except BowyeryError:
        return None


def swung(made: Sheet) -> tuple[Swing, ...]:
    """How it swings in the nocks."""
    on = made.on
    if on is None or made.plan is None or made.plan.kind.use != "shoots":
        return ()
    bow = replace(on.bow, brace_height=None, string_length=made.plan.length)
    try:
        return computed("swings", (bow, on.draw), lambda: swings(bow, on.draw))
    except BowyeryError:
        return ()


# Twins


@dataclass(frozen=True)
class Twin:
    """One figure of two matched strings: as measured, their difference, and whether it is within
    what is allowed. Values are in SI, None where one was not measured.
    """

    what: str
    kind: str
    this: float | None
    other: float | None
    allowed: float

    @property
    def off(self) -> float | None:
        """How far they are apart."""
        return None if self.this is None or self.other is None else abs(self.this - self.other)

    @property
    def within(self) -> bool | None:
        """Whether that is allowed; None where it is not known."""
        return None if self.off is None else self.off <= self.allowed


@dataclass(frozen=True)
class TwinSheet:
    """Two strings side by side.

    Attributes:
        change: what the other does to the bow, or None.
        speed: what it does to the arrow (m/s), or None.
        advice: what to change on the other, in words.
    """

    this: Sheet
    other: Sheet
    rows: tuple[Twin, ...]
    change: Swapped | None
    speed: float | None
    advice: str = ""
    brace_words: str = ""
    weight_words: str = ""
    speed_words: str = ""
    tiller_words: str = ""


_TWIN_ROWS = (
    ("length", "length", "length"),
    ("stretch", "stretch", "length"),
    ("mass", "mass", "mass"),
    ("serving", "serving", "length"),
    ("nocking point", "nocking point", "length"),
    ("brace", "brace", "length"),
)


def twin_of(made: Sheet, others: Sequence[Sheet], shown: Units) -> TwinSheet | None:
    """The string that it is to match, or that is to match it, side by side."""
    string = made.string
    if made.plan is None or made.plan.kind.use != "shoots":
        return None
    partner = {"working": "spare", "spare": "working", "later": "working"}.get(string.role)
    alive = [one for one in others if one.string.pk != string.pk and one.over is None]
    other = next((one for one in alive if one.string.pk == string.like_id), None) or next(
        (one for one in reversed(alive) if one.string.role == partner), None
    )
    if other is None:
        return None
    rows = []
    for what, kind, quantity in _TWIN_ROWS:
        a, b = made.read(kind), other.read(kind)
        allowed = ALLOWED[kind]
        if kind == "mass":
            allowed *= a or made.plan.mass
        if a is not None or b is not None:
            rows.append(Twin(what, quantity, a, b, allowed))
    change, speed, advice = _swap(made, other)
    told: dict[str, str] = {}
    if change is not None:
        told = {
            "brace_words": _moved(change.brace, shown.thickness, "higher", "lower", 0.0003),
            "weight_words": _moved(change.weight, shown.fine_weight, "more", "less", 0.2),
            "tiller_words": "the tiller stays" if abs(change.tips) < 0.002 else
            f"the upper tip comes {shown.length(abs(change.tips))}"
            f" {'further' if change.tips > 0 else 'less far'} than the lower",
        }  # fmt: skip
    if speed is not None:
        told["speed_words"] = "the arrow " + _moved(
            speed, lambda v: FINE_SPEED.write(v, shown), "faster", "slower", 0.02
        )
    return TwinSheet(made, other, tuple(rows), change, speed, advice, **told)


def _moved(value: float, write: Callable[[float], str], up: str, down: str, least: float) -> str:
    if abs(value) < least:
        return "as before"
    return f"{write(abs(value))} {up if value > 0 else down}"


def _swap(made: Sheet, other: Sheet) -> tuple[Swapped | None, float | None, str]:
    """What the other string does to the bow, to the arrow, and what to change on it."""
    on, plan = made.on, made.plan
    a, b = made.length, other.length
    if on is None or plan is None or a is None or b is None:
        return None, None, ""
    known = made.read("length") is not None and other.read("length") is not None
    nock = (other.read("nocking point") or 0.0) - (made.read("nocking point") or 0.0)
    both = made.read("nocking point") is not None and other.read("nocking point") is not None
    bow = on.bow
    if not known:
        return None, None, "Measure both under the same load, and what a change does is said here."
    loads = made.newest["length"].second, other.newest["length"].second
    if loads[0] and loads[1] and abs(loads[0] / loads[1] - 1) > SAME_LOAD:
        return None, None, "They were measured under different loads: measure both under the same."
    key = (bow, on.draw, on.weight, a, b, nock if both else 0.0)
    try:
        change = computed(
            "swapped", key,
            lambda: swapped(bow, on.draw, on.weight, a, b, nock if both else 0.0),
        )  # fmt: skip
    except BowyeryError as error:
        return None, None, getattr(error, "reason", str(error))
    cost = priced(made)
    speed = None
    heavier = (other.read("mass") or 0.0) - (made.read("mass") or 0.0)
    if cost is not None and other.read("mass") and made.read("mass"):
        speed = -cost.total * heavier / (made.read("mass") or 1.0)
    return change, speed, _evened(plan, made, other, b - a)


def _evened(plan: StringPlan, made: Sheet, other: Sheet, longer: float) -> str:
    if abs(longer) <= ALLOWED["length"]:
        return ""
    its = other.plan or plan
    length = its.length / (1 + its.fibre.stretch)
    try:
        turns = round(turns_for(its.kind, its.diameter, length, other.turns, longer))
    except DescriptionError:
        return "Twist alone does not even them: move a loop of the other one."
    if turns == 0:
        return ""
    verb = "Put" if turns > 0 else "Let"
    end = "into" if turns > 0 else "out of"
    who = other.string.get_role_display()
    return f"{verb} {abs(turns)} turn{'' if abs(turns) == 1 else 's'} {end} {who}."


# The list of all strings, and the stock of thread


@dataclass(frozen=True)
class StockRow:
    """A thread with its tests, and what strings that are not made yet want of it (kg)."""

    tested: Tested
    needs: float
    strings: int

    @property
    def short(self) -> bool:
        """Whether it does not reach."""
        stock = self.tested.thread.stock
        return stock is not None and self.needs > stock


@dataclass(frozen=True)
class Hung:
    """Strings of one bow."""

    build: Build
    sheets: tuple[Sheet, ...]


def hung() -> list[Hung]:
    """Every string, hung by its bow, the newest bow first."""
    by_build: dict[int, list[BowString]] = {}
    for one in strings():
        by_build.setdefault(one.build.number, []).append(one)
    return [Hung(rows[0].build, sheets_of(rows)) for _, rows in sorted(by_build.items())[::-1]]


def sheets_of(rows: Sequence[BowString]) -> tuple[Sheet, ...]:
    """Strings of one bow with their plans."""
    if not rows:
        return ()
    found, trouble = try_solution(rows[0].build.design)
    on = on_bow(rows[0].build, found) if found else None
    return tuple(sheet(one, on, trouble) for one in rows)


def stock(bows: Sequence[Hung]) -> list[StockRow]:
    """The shop's threads, and what is wanted of each."""
    wants: dict[int, list[float]] = {}
    for bow in bows:
        for one in bow.sheets:
            if one.plan and one.string.thread_id and not one.is_made and one.over is None:
                mass = one.plan.thread * one.plan.fibre.line_mass
                wants.setdefault(one.string.thread_id, []).append(mass)
    tests = StrandTest.objects.filter(struck_by=None).exclude(load=None)
    threads = Thread.objects.prefetch_related(Prefetch("tests", tests, to_attr="standing_tests"))
    return [
        StockRow(tested(one), sum(wants.get(one.pk, [])), len(wants.get(one.pk, [])))
        for one in threads
    ]


def strip_for(made: Sheet) -> tuple[StripFit, float] | None:
    """What strips of its hide bear, and how wide each of this string's is (m)."""
    strips = strips_of(made.string)
    if strips is None or made.plan is None:
        return None
    return strips, made.plan.bears.low / strips.bears.low


# Writing


@transaction.atomic
def keep(string: BowString, by: Person, world: World, told: str = "") -> None:
    """Keep a string, and write it into the build's log."""
    new = string.pk is None
    string.save()
    if new or told:
        Entry.objects.create(
            build=string.build, kind="string", stage=string.build.stage, by=by, world=world,
            text=told or _told(string),
        )  # fmt: skip


def _told(string: BowString) -> str:
    parts = [f"{string.get_role_display()}: {string.of}, {string.kind}"]
    parts += [f"{string.strands} strands"] if string.strands else []
    return ", ".join(parts)


def take_over(string: BowString, like: BowString) -> None:
    """Let a new string have what the one has that it is to match: figures of its own, and the
    strands and length that it came to.
    """
    names = (
        "rule", "turns", "direction", "colour_one", "colour_two", "own_length", "loop_upper",
        "loop_lower", "throat", "serving", "serving_above", "nock_above", "serving_thread",
        "pieces", "piece", "silencers", "silencers_at",
    )  # fmt: skip
    for name in names:
        setattr(string, name, getattr(like, name))
    made = sheet_of(like)
    if made.plan is None:
        return
    string.strands = string.strands or made.plan.strands
    if made.read("length"):
        string.own_length = made.read("length")
    if made.read("serving"):
        string.serving = made.read("serving")
    if made.read("nocking point") is not None:
        string.nock_above = made.read("nocking point")


def write_test(thread: Thread, form: TestForm, by: Person) -> StrandTest:
    """Write down a strand or strip that broke."""
    return StrandTest.objects.create(
        thread=thread, load=form.given("load"), load_text=form.text("load"),
        width=form.value("width"), width_text=form.text("width"), by=by,
    )  # fmt: skip


@transaction.atomic
def write_all(
    string: BowString,
    rows: Sequence[dict[str, Any]],
    by: Person,
    world: World,
    client_id: UUID | None = None,
    at: datetime | None = None,
) -> bool:
    """Write what a form says, all of it or nothing; False where it was written before."""
    if client_id and StringEntry.objects.filter(client_id=client_id).exists():
        return False
    for number, row in enumerate(rows):
        key = client_id if number == 0 else None
        made = write(string, row["kind"], row["text"], by, world, row.get("value"),
                     row.get("second"), row.get("pulls"), key)  # fmt: skip
        if made is not None and at is not None:
            StringEntry.objects.filter(pk=made.pk).update(at=at)
    return True


@transaction.atomic
def write(
    string: BowString,
    kind: str,
    text: str,
    by: Person,
    world: World,
    value: float | None = None,
    second: float | None = None,
    pulls: int | None = None,
    client_id: UUID | None = None,
) -> StringEntry | None:
    """Write one thing down; nothing where that id was written before, or a step is done already."""
    if client_id and StringEntry.objects.filter(client_id=client_id).exists():
        return None
    if kind == "step" and any(e.kind == "step" and e.text == text for e in standing(string)):
        return None
    extra = {"client_id": client_id} if client_id else {}
    made = StringEntry.objects.create(
        string=string, kind=kind, value=value, second=second, pulls=pulls, text=text[:120],
        world=world, by=by, **extra,
    )  # fmt: skip
    if kind not in ("step", "cord"):
        Entry.objects.create(
            build=string.build, kind="string", stage=string.build.stage, by=by, world=world,
            text=f"{string.get_role_display()}: {StringEntry.KINDS[kind]} {text}"[:400],
        )  # fmt: skip
    return made


@transaction.atomic
def strike(entry: StringEntry, by: Person) -> bool:
    """Strike an entry that was written by mistake; False where it is struck already."""
    if StringEntry.objects.filter(strikes=entry).exists() or entry.strikes_id:
        return False
    StringEntry.objects.create(
        string=entry.string, kind=entry.kind, text=f"struck: {entry.text}"[:120], strikes=entry,
        world=entry.world, by=by,
    )  # fmt: skip
    if entry.kind not in ("step", "cord"):
        Entry.objects.create(
            build=entry.string.build, kind="string", stage=entry.string.build.stage, by=by,
            world=entry.world, text=f"{entry.string.get_role_display()}: struck {entry.text}"[:400],
        )  # fmt: skip
    return True


@transaction.atomic
def throw_away(string: BowString) -> None:
    """Delete a string of which nothing that was read stands."""
    string.entries.exclude(strikes=None).delete()
    string.delete()


@transaction.atomic
def strike_test(test: StrandTest, by: Person) -> bool:
    """Strike a test that was written by mistake; False where it is struck already."""
    if StrandTest.objects.filter(strikes=test).exists() or test.strikes_id:
        return False
    StrandTest.objects.create(
        thread=test.thread, load=None, load_text=f"struck: {test.load_text}"[:40], strikes=test,
        by=by,
    )  # fmt: skip
    return True


def last_pulls(made: Sheet) -> int:
    """Pulls since the string was new, at the last brace height."""
    return max((e.pulls or 0 for e in made.entries if e.kind == "brace"), default=0)


@CARD_ROWS.answered_by
def card_rows(build: Build, shown: Units) -> list[tuple[str, str]]:
    """A build's strings as its card has them."""
    rows = []
    for one in strings().filter(build=build):
        measured = {e.kind: e for e in standing(one)}
        length = measured.get("length")
        said = f", {shown.length(length.value)}" if length and length.value else ""
        rows.append((one.get_role_display().capitalize(), f"{one.of}, {one.kind}{said}"))
    return rows


@STRING_ON.answered_by
def string_on(build: Build) -> tuple[float | None, StringLine] | None:
    """Length (m) as measured and line of the working string of a build, with its mass as weighed;
    None where it has none.
    """
    rows = list(strings().filter(build=build, role__in=("working", "spare", "later")))
    for made in sheets_of(rows):
        if made.plan is not None and made.over is None:
            line = replace(made.plan.line, mass=made.mass or made.plan.mass)
            return made.read("length"), line
    return None
