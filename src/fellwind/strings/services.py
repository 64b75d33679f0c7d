"""Strings of this shop: rows into the core's orders, and what was read of them into answers."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from django.db.models import Prefetch, QuerySet

from bowyery.bow.bow import Bow
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.mechanics.dynamics import USUAL_ARROW
from bowyery.strings.breaking import Bears, StripFit, strand_bears, strip_fit, strip_width
from bowyery.strings.fit import Swing, swings
from bowyery.strings.kinds import string_kind
from bowyery.strings.length import Cord, CordPair, from_cord, thumb
from bowyery.strings.plan import StringOrder, StringPlan, plan_string
from bowyery.strings.price import Price, price
from bowyery.strings.settle import BraceRead, Settles, Settling, settling
from bowyery.strings.strength import SCHOOL_ONE_DRAW
from bowyery.strings.twist import turns_for, twist_shortening
from bowyery.units.quantity import INCH, Units
from bowyery.wood.materials import Fibre
from fellwind.builds.models import Build
from fellwind.builds.ports import AS_TILLERED
from fellwind.builds.services import standing_entries
from fellwind.designs.services import try_solution
from fellwind.kit.cache import computed
from fellwind.shop.book import fibre as fibre_named
from fellwind.strings.belief import belief
from fellwind.strings.models import BowString, StrandTest, StringEntry, Thread

NEAR_FIFTEEN, NEAR_FULL = 0.05, 0.012  # of the draws that weights count for (m)


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


def sheets_of(rows: Sequence[BowString]) -> tuple[Sheet, ...]:
    """Strings of one bow with their plans."""
    if not rows:
        return ()
    found, trouble = try_solution(rows[0].build.design)
    on = on_bow(rows[0].build, found) if found else None
    return tuple(sheet(one, on, trouble) for one in rows)


def strip_for(made: Sheet) -> tuple[StripFit, float] | None:
    """What strips of its hide bear, and how wide each of this string's is (m)."""
    strips = strips_of(made.string)
    if strips is None or made.plan is None:
        return None
    return strips, made.plan.bears.low / strips.bears.low


def last_pulls(made: Sheet) -> int:
    """Pulls since the string was new, at the last brace height."""
    return max((e.pulls or 0 for e in made.entries if e.kind == "brace"), default=0)
