"""What a kind of reading or act is: how it is written, asked for, said, doubted, and what it does.

One file of this folder has a kind whole. The pencil line, the forms, the log, the words, the
estimate and the virtual stave all go by the table that :mod:`bowyery.tiller.kinds` makes of them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Limb, Side
from bowyery.bow.limb_grid import LimbGrid
from bowyery.errors import EstimateError
from bowyery.mechanics.elastica import Shapes
from bowyery.tiller.changes import Act
from bowyery.tiller.statements import Context, Statement, Tree, one, where_words
from bowyery.units.quantity import LENGTH, METRIC, Quantity, Units, World


@dataclass(frozen=True)
class Reading:
    """One reading.

    Attributes:
        value: as read (SI).
        kind: a key of KINDS, which says what it is.
        limb: for all that belong to one.
        draw: from pivot to nocking point (m); None means braced or hanging.
        at: place along the limb from its root (m), where the kind has one.
        span: of a straight edge (m); the earlier draw of a tip's travel (m).
        string: which string was on, a key of the bows the readings are taken with.
        error: one standard deviation, or None for what a careful maker reads.
        drop: share by which a weight sank in a hold before it was read.
        how: it was come by: a word of the eye, a photograph, a scale; empty: a figure.
        id: of the measure it came from, where it came from one.
    """

    kind: str
    value: float
    limb: Side | None = None
    draw: float | None = None
    at: float | None = None
    span: float | None = None
    string: str = ""
    error: float | None = None
    drop: float = 0.0
    how: str = ""
    id: int | None = None

    @property
    def at_once(self) -> float:
        """The value, a weight as it was before it sank in a hold."""
        return self.value / (1 - self.drop) if self.kind == "weight" else self.value

    @property
    def side(self) -> int:
        """The limb as a place on the first axis of the arrays; raises EstimateError without one."""
        if self.limb is None:
            raise EstimateError("Say which limb the reading is of, upper or lower.")
        return SIDES.index(self.limb)

    @property
    def draws(self) -> tuple[float | None, ...]:
        """Every draw it looks at."""
        return (self.span, self.draw) if self.kind == "tip travel" else (self.draw,)


@dataclass(frozen=True)
class Scene:
    """A batch of bows as they are read: their shapes, weights and tilts at each draw, None: at
    brace.

    Attributes:
        bent: shapes at each draw.
        weight: at each draw, ``(B,)`` (N).
        tilt: at each draw, ``(B,)`` (rad).
        taut: the draw where the string is straight, or comes taut, ``(B,)`` (m).
        design: the grid that these limbs are judged against by eye, or None: they are as designed.
    """

    limbs: LimbGrid
    bow: Bow
    bent: Mapping[float | None, Shapes]
    weight: Mapping[float | None, Floats]
    tilt: Mapping[float | None, Floats]
    taut: Floats
    design: LimbGrid | None = None


Predict = Callable[[Scene, Reading], Floats]
Error = Callable[[Reading, float, float], float]
Build = Callable[[Context], tuple[Statement, ...]]
Say = Callable[[Statement, Tree, Units], str]
# What the walk through the log does with it.
Walk = Literal["reading", "lie", "string", "aside", "rested", "wood", "act", "pulls", "mark", ""]


@dataclass(frozen=True)
class Help:
    """One way to say it, for the help and for the sentences of errors.

    Attributes:
        word: what marks a statement that means to be of this kind, a pattern.
    """

    meaning: str
    imperial: str
    metric: str
    word: str = ""

    def example(self, world: World) -> str:
        """How it may be written in a world."""
        return self.metric if world == METRIC else self.imperial


@dataclass(frozen=True)
class Asked:
    """How the form of readings asks for it.

    Attributes:
        name: of its field; ``upper_`` or ``lower_`` stands before it where it is of a limb.
        label: of its field; ``{limb}`` is filled in.
        before: what stands before the figures in the pencil line.
        bound: of a single figure, a key of BOUNDS; empty: figures with places, as in the line.
        hints: what may be written, in each world.
        run: several may follow one another.
        limbs: it is read of each limb.
    """

    name: str
    label: str
    before: str
    bound: str = ""
    hints: tuple[str, str] = ("", "")
    run: bool = False
    limbs: bool = True

    def names(self) -> list[tuple[str, str]]:
        """Names of its fields, with their limbs."""
        return [(f"{k}_{self.name}", k) for k in SIDES] if self.limbs else [(self.name, "")]


@dataclass(frozen=True, kw_only=True)
class Kind:
    """One kind of statement.

    Attributes:
        also: other names that its statements go by.
        forms: how it is written, as templates; the first is what forms of the page compose.
        build: from a matched form to statements; nothing: as is usual for its kind.
        say: how it is said back; nothing: as is usual.
        carried: forms that will do after a statement of the same kind.
        walk: what the log does with it.
        word: what it is called in the line.
        bounds: what a bow can show, a key of BOUNDS, and what a figure outside is called.
    """

    name: str
    build: Build | None = None
    say: Say | None = None
    forms: tuple[str, ...] = ()
    helps: tuple[Help, ...] = ()
    also: tuple[str, ...] = ()
    carried: tuple[str, ...] = ()
    walk: Walk = ""
    word: str = ""
    quantity: Quantity = LENGTH
    bounds: tuple[str, str] = ("", "")
    asked: tuple[Asked, ...] = ()

    def read(self, found: Context) -> tuple[Statement, ...]:
        """What a matched form says; raises UnreadableError."""
        return (self.build or self.usual)(found)

    def aloud(self, said: Statement, tree: Tree, shown: Units) -> str:
        """A statement in words, draws on the tree's ruler."""
        return (self.say or self.usually)(said, tree, shown)

    def after_one(self) -> tuple[str, ...]:
        """Forms that will do after a statement of the same kind."""
        return self.carried

    def usual(self, found: Context) -> tuple[Statement, ...]:
        """How its kind is usually read."""
        raise NotImplementedError

    def usually(self, said: Statement, tree: Tree, shown: Units) -> str:
        """How its kind is usually said."""
        raise NotImplementedError


@dataclass(frozen=True, kw_only=True)
class ReadingKind(Kind):
    """A kind of reading.

    Attributes:
        said: how it is said, with ``{limb}``, ``{value}``, ``{draw}``, ``{when}``, ``{where}`` and
            ``{span}``.
        predict: what a batch of bows reads, ``(B,)`` in SI.
        error: one standard deviation by reading, expected value, and slope of weight by draw.
        needs: which of ``draw``, ``at`` and ``span`` it cannot be without.
        wants: what a span is called where it lacks.
        on_place: it is read at a place of a limb.
        is_draw: its value is itself a draw.
        unstrung: it is read with the string off.
        braced: it is read on a braced bow only.
        seen: by eye, which notices a stretch, not a figure.
        size: of the wood itself.
        missed: how it is asked for, where it would tell most; nothing: it is not asked for.
    """

    walk: Walk = "reading"
    said: str = ""
    predict: Predict
    error: Error
    of_limb: bool = True
    needs: frozenset[str] = frozenset()
    wants: str = "the earlier draw"
    on_place: bool = False
    is_draw: bool = False
    unstrung: bool = False
    braced: bool = False
    seen: bool = False
    size: bool = False
    missed: str = ""

    @property
    def off_the_bend(self) -> bool:
        """Whether it is read off a bent bow."""
        return not (self.unstrung or self.size)

    def after_one(self) -> tuple[str, ...]:
        """Forms that will do after a reading of the same kind: the word may be left out, and of
        readings at places the limb too.
        """
        if self.carried or self.build is not None or not self.of_limb:
            return self.carried
        left = [f" {self.word} ", "{limb} "] + [f"{{limb}} {self.word} "] * self.on_place
        return tuple(
            form.replace(out, " " if out[0] == " " else "") for out in left for form in self.forms
        )

    def usual(self, found: Context) -> tuple[Statement, ...]:
        """A value, of a limb and at a place and a draw where its form has them."""
        limb = found.limb()
        if self.is_draw:
            return one(found, self.name, found.draw() or 0.0)
        value = self.quantity.read(found.text("value") or "", found.world)
        found.within(value, *self.bounds)
        place = found.place("place", limb)
        return one(found, self.name, value, limb=limb, draw=found.draw(), start=place, end=place)

    def usually(self, said: Statement, tree: Tree, shown: Units) -> str:
        """By its sentence."""
        value = self.value_words(said.value or 0.0, tree, shown)
        draw = "" if said.draw is None else tree.draw_words(said.draw, shown)
        # of the pull at hand: the line itself does not say at which draw
        carried = self.on_place and said.draw is not None and said.draw == tree.draw
        return self.said.format(
            limb=said.limb,
            value=value,
            draw=value if self.is_draw else draw,
            when=f"at {draw}" if draw else "at brace",
            where=where_words(said.at, shown),
            span=shown.length((said.end or 0.0) - (said.start or 0.0)),
        ) + (f", at {draw}" if carried else "")

    def value_words(self, value: float, tree: Tree, shown: Units) -> str:
        """A value (SI) in words: a draw on the tree's ruler, anything else as it is."""
        return tree.draw_words(value, shown) if self.is_draw else self.quantity.write(value, shown)


@dataclass(frozen=True)
class Press:
    """How the form of acts asks for it.

    Attributes:
        words: what it is called in the list.
        line: it as a pencil line; figures of the form stand in braces.
        asks: names of the form's fields, beyond the limb; ``?`` behind one that may be left out.
        limbs: limbs it may be done to.
        care: what to mind when it is done.
    """

    name: str
    words: str
    line: str
    asks: tuple[str, ...] = ()
    limbs: tuple[str, ...] = ("both", "upper", "lower")
    care: str = ""


@dataclass(frozen=True, kw_only=True)
class ActKind(Kind):
    """A kind of act: something that changes the bow otherwise than by wood off its belly.

    How much an act is uncertain is a judgement of the bench, to be replaced by what the shop's own
    acts did.

    Attributes:
        done: the bow after it; nothing: no geometry shows it.
        stiffer: log stiffness that no geometry shows, by the bow before, a limb's side, the act,
            whether geometry shows it in part, and places from the root ``(places,)`` (m).
        sized: stiffness follows the section of the limb as estimated.
        bent: natural bend it may have left, one deviation (1/m).
        doubt: log stiffness it leaves unknown, alike over a limb, and place by place.
        again: what to look at again after it, in the order of the bench.
        badge: what stands beside its stretch in the picture.
        presses: how the form asks for it.
    """

    walk: Walk = "act"
    done: Callable[[Bow, Act], Bow] | None = None
    stiffer: Callable[[Bow, int, Act, bool, Floats], Floats | float] | None = None
    sized: bool = False
    bent: Callable[[Limb, Act], float] | None = None
    doubt: tuple[float, float] = (0.0, 0.0)
    again: tuple[str, ...] = ("tiller",)
    badge: str = ""
    presses: tuple[Press, ...] = ()


def always(error: float) -> Error:
    """The same error for every reading of a kind, unless it brings its own.

    Args:
        error: one standard deviation (SI).
    """
    return lambda r, value, slope: error if r.error is None else r.error


def with_wood(error: float, share: float) -> Error:
    """An error that grows with what is expected, since the wood itself varies.

    Args:
        error: one standard deviation of the reading (SI).
        share: one deviation of the wood there, as a share of what is expected.
    """
    return lambda r, value, slope: float(
        np.hypot(error if r.error is None else r.error, share * value)
    )
