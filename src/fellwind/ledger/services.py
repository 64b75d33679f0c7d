"""What the book's pages show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from time import perf_counter

from django.db.models import Q, QuerySet, Sum
from django.http import QueryDict
from django.urls import reverse
from django.utils import timezone

from bowyery.making.stages import NAMES as STAGES
from bowyery.record.proof import Against
from bowyery.record.season import Held, Missed, held, missed
from bowyery.strings.settle import Settling
from bowyery.units.quantity import POUND_FORCE, Units
from fellwind.builds.models import BenchPhoto, Build, Entry
from fellwind.builds.proof import Proof, proof
from fellwind.builds.services import builds, minutes
from fellwind.builds.stages import all_words
from fellwind.designs.pictures import ruler_data, side_lines
from fellwind.designs.services import try_solution
from fellwind.drawing import compare as drawn
from fellwind.drawing.accuracy import Forecast, accuracy_picture
from fellwind.exports.book import Line, book_pdf
from fellwind.kit.pages import number_in
from fellwind.kit.paging import Paged, paged
from fellwind.kit.photos import photo_path
from fellwind.shop.models import Workshop
from fellwind.strings.services import Sheet, priced, sheets_of, strings
from fellwind.tiller.learning import RUNGS, forecasts_by_rung

KINDS = {
    "bench": "readings and acts", "stage": "stages", "tick": "lists", "proof": "proofs",
    "string": "strings", "finish": "finish", "wait": "rests", "photo": "photographs",
}  # fmt: skip
LIMBS = ("upper", "lower")


@dataclass(frozen=True)
class SearchPage:
    """Entries of all bows, found by words, stage, kind and limb."""

    paged: Paged
    rows: Sequence[tuple[Entry, str]]
    stage: str
    kind: str
    limb: str
    stages: Sequence[str]
    kinds: dict[str, str]
    limbs: Sequence[str]
    builds: Sequence[Build]
    more: str


def entries() -> QuerySet[Entry]:
    """Everything that was written, the newest first."""
    return (
        Entry.objects.select_related("build", "by", "corrects", "corrected_by", "photo")
        .order_by("-at", "-pk")
    )  # fmt: skip


def search(asked: QueryDict, shown: Units) -> SearchPage:
    """What was searched for."""
    rows = entries()
    stage = asked.get("stage", "") if asked.get("stage") in STAGES else ""
    kind = asked.get("kind", "") if asked.get("kind") in KINDS else ""
    limb = asked.get("limb", "") if asked.get("limb") in LIMBS else ""
    if stage:
        rows = rows.filter(stage=stage)
    if kind:
        rows = rows.filter(kind=kind)
    if limb:
        rows = rows.filter(Q(measures__limb=limb) | Q(text__icontains=limb)).distinct()
    found = paged(rows, asked, ("text", "build__name"), "build__number")
    words: dict[int, dict[str, str]] = {}
    told = []
    for entry in found.rows:
        text = entry.text
        if entry.kind == "tick":
            known = words.setdefault(entry.build.pk, _ticked(entry.build, shown))
            text = known.get(text, text)
        told.append((entry, text))
    more = "".join(
        f"&{name}={value}"
        for name, value in (("stage", stage), ("kind", kind), ("limb", limb))
        if value
    )
    return SearchPage(found, told, stage, kind, limb, STAGES, KINDS, LIMBS, list(builds()), more)


def _ticked(build: Build, shown: Units) -> dict[str, str]:
    found, _ = try_solution(build.design)
    return all_words(build.design, found, shown)


@dataclass(frozen=True)
class BowRow:
    """A bow of the season."""

    build: Build
    minutes: int
    proof: Proof | None
    weight_off: float | None
    cause: str


@dataclass(frozen=True)
class SeasonPage:
    """A season of a shop: what was begun, finished and broken, and how far it missed.

    Attributes:
        year: of the season; years that have any.
        weight, follow, speed: misses against what was wanted or foretold (share, m, share).
        bands: how often the bands of the forecasts held what came.
        picture: each forecast by what it was of, by how far it missed.
    """

    year: int
    years: Sequence[int]
    rows: Sequence[BowRow]
    began: int
    finished: int
    broken: int
    minutes: int
    weight: Missed | None
    follow: Missed | None
    speed: Missed | None
    bands: Held | None
    picture: str


@dataclass(frozen=True)
class Rungs:
    """How the tiller's forecasts of a season held, look by look up the ladder.

    Attributes:
        picture, rows: of the bows that are reckoned.
        left: bows still to be reckoned, when they took longer than a page may.
        year: of the season; again: how often the page has asked, this time counted; 0 where it
            shall ask no more.
    """

    picture: str
    rows: Sequence[tuple[str, Missed, Held]]
    left: int
    year: int
    again: int


PATIENCE = 1.5  # seconds, after which no other bow is begun; what is reckoned is kept
MOST_ASKED = 20  # times; each has longer, as what is kept has to be read again too


def rungs(asked: QueryDict, today: date) -> Rungs:
    """Forecasts of the finished weight at the last look on each rung, against the proof."""
    year, _, those = _of_year(asked, today)
    told: list[Forecast] = []
    off: dict[str, list[float]] = {}
    asked_before = min(max(number_in(asked.get("again")) or 0, 0), MOST_ASKED)
    until, left = perf_counter() + PATIENCE * (1 + 0.25 * asked_before), 0
    for number, build in enumerate(those):
        if number and perf_counter() > until:
            left = len(those) - number
            break
        found, _ = try_solution(build.design)
        proved = proof(build, found)
        if proved is None:
            continue
        came = proved.figures["weight"].value or 0.0
        for words, band in forecasts_by_rung(build, proved.entry.at):
            row = Against(words, band.low, band.middle, band.high, came)
            told.append(Forecast(words, build.number, row.miss))
            off.setdefault(words, []).append(came / band.middle - 1)
    rows = []
    for words in RUNGS.values():
        misses = missed(off.get(words, []))
        kept = held([one.held for one in told if one.what == words])
        if misses and kept:
            rows.append((words, misses, kept))
    told.sort(key=lambda one: list(RUNGS.values()).index(one.what))
    again = asked_before + 1 if left and asked_before < MOST_ASKED else 0
    return Rungs(str(accuracy_picture(told)) if told else "", rows, left, year, again)


def _of_year(asked: QueryDict, today: date) -> tuple[int, list[int], list[Build]]:
    """The season that was asked for, or the newest that has any bow; all of them; its bows."""
    all_bows = list(builds().select_related("inquest"))
    years = sorted({*(timezone.localdate(b.started).year for b in all_bows), today.year},
                   reverse=True)  # fmt: skip
    given = number_in(asked.get("year"))
    year = given if given in years else today.year
    return year, years, [b for b in all_bows if year in (_began(b), _ended(b))]


def _began(build: Build) -> int:
    return timezone.localdate(build.started).year


def _ended(build: Build) -> int | None:
    return timezone.localdate(build.finished).year if build.finished else None


def season(asked: QueryDict, today: date, shown: Units) -> SeasonPage:
    """The season that was asked for, or the newest that has any bow."""
    year, years, those = _of_year(asked, today)
    spent = dict(
        Entry.objects.filter(build__in=those, corrected_by=None)
        .values_list("build")
        .annotate(total=Sum("minutes"))
    )
    rows, weights, follows, speeds = [], [], [], []
    forecasts: list[Forecast] = []
    for build in those:
        found, _ = try_solution(build.design)
        proved = proof(build, found)
        off = None if proved is None else proved.off / build.design.weight
        if off is not None:
            weights.append(off)
        for row in proved.against if proved else ():
            forecasts.append(Forecast(row.what, build.number, row.miss))
            if row.what == "string follow":
                follows.append(row.off)
            if row.what == "arrow speed":
                speeds.append(row.off / row.middle)
        inquest = getattr(build, "inquest", None) if build.ending == "broken" else None
        cause = inquest.get_how_display() if inquest else ""
        rows.append(BowRow(build, spent.get(build.pk) or 0, proved, off, cause))
    return SeasonPage(
        year, years, rows,
        sum(_began(b) == year for b in those),
        sum(bool(b.finished) and b.ending in ("", "finished", "sold", "given") for b in those),
        sum(b.ending == "broken" for b in those),
        sum(row.minutes for row in rows),
        missed(weights), missed(follows), missed(speeds),
        held([one.held for one in forecasts]),
        accuracy_picture(forecasts) if forecasts else "",
    )  # fmt: skip


@dataclass(frozen=True)
class CompareRow:
    """A proved bow in the comparison."""

    letter: str
    build: Build
    proof: Proof
    minutes: int

    def _figure(self, kind: str) -> float | None:
        found = self.proof.figures.get(kind)
        return None if found is None else found.value

    @property
    def brace(self) -> float | None:
        """Brace height (m)."""
        return self._figure("brace height")

    @property
    def follow(self) -> float | None:
        """String follow, as it was read last (m)."""
        return self.proof.follow

    @property
    def speed(self) -> float | None:
        """Of the arrow (m/s)."""
        return self._figure("arrow speed")

    @property
    def speed_per_pound(self) -> float | None:
        """Arrow speed for each pound of weight (m/s)."""
        weight = self._figure("weight")
        return self.speed / (weight / POUND_FORCE) if self.speed and weight else None


@dataclass(frozen=True)
class StringRow:
    """A string of a bow in the comparison.

    Attributes:
        letter, sheet: of its bow, and its own.
        bears: what it bears over what it needs to.
        settled: its brace height when it has settled (m).
        costs: arrow speed against a string that weighs nothing (m/s).
    """

    letter: str
    sheet: Sheet
    bears: float
    settled: float | None
    costs: float | None


@dataclass(frozen=True)
class ComparePage:
    """Finished bows side by side, with their strings."""

    choices: Sequence[Build]
    chosen: Sequence[int]
    rows: Sequence[CompareRow]
    outlines: str = ""
    curves: str = ""
    sides: str = ""
    strings: Sequence[StringRow] = ()


def compare(asked: QueryDict, shown: Units) -> ComparePage:
    """The proved bows that were chosen, up to four."""
    numbers = [n for n in map(number_in, asked.getlist("b")) if n is not None]
    proved = list(builds().filter(entries__kind="proof").distinct())
    those = [b for b in proved if b.number in numbers][: len(drawn.LETTERS)]
    rows: list[CompareRow] = []
    rulers, curves, sides = [], [], []
    strung: list[StringRow] = []
    for build in those:
        found, _ = try_solution(build.design)
        told = proof(build, found)
        if found is None or told is None:
            continue
        rows.append(CompareRow(drawn.LETTERS[len(rows)], build, told, minutes(build)))
        rulers.append(ruler_data(found))
        came = told.figures["weight"].value or found.weight
        curves.append((found.curve.drawn.draw, found.curve.drawn.weight * came / found.weight))
        sides.append(side_lines(found))
        strung += _strings(rows[-1].letter, build)
    return ComparePage(
        proved, numbers, rows, drawn.outlines(rulers, shown) if rulers else "",
        drawn.curves(curves, shown) if curves else "",
        drawn.side_views(sides) if sides else "", strung,
    )  # fmt: skip


def _picture(entry: Entry) -> Path | None:
    """The file of an entry's photograph, where it has one."""
    photo: BenchPhoto | None = getattr(entry, "photo", None)
    if photo is None or photo.gone:
        return None
    path = photo_path(photo.name, "-small")
    return path if path.exists() else None


def _strings(letter: str, build: Build) -> list[StringRow]:
    """The strings of a bow that it is shot with."""
    found = []
    for made in sheets_of(list(strings().filter(build=build))):
        if made.plan is None or made.plan.kind.use != "shoots":
            continue
        told, cost = made.settling, priced(made)
        settled = told.final[0] if isinstance(told, Settling) else None
        bears = made.plan.safe / made.plan.needed
        found.append(StringRow(letter, made, bears, settled, cost.total if cost else None))
    return found


def book(build: Build, shown: Units) -> bytes:
    """Everything that was written of a bow, in order, on paper."""
    words = _ticked(build, shown)
    lines = [
        Line(
            f"{timezone.localtime(one.at):%-d %b %Y, %H:%M}", one.stage,
            words.get(one.text, one.text) if one.kind == "tick" else one.text,
            str(one.by.username) if one.by else "", one.minutes, hasattr(one, "corrected_by"),
            _picture(one),
        )
        for one in entries().filter(build=build).order_by("at", "pk")
    ]  # fmt: skip
    title, paper = f"{build.number}  {build.name}", Workshop.get().paper
    return book_pdf(title, str(build.design.archer), lines, paper)


def pages() -> list[str]:
    """Screens of this room."""
    found = [
        reverse(f"ledger:{name}") for name in ("search", "season", "compare", "learned", "bring")
    ]
    proved = Build.objects.filter(entries__kind="proof").first()
    if proved is not None:
        found.append(f"{reverse('ledger:compare')}?b={proved.number}")
        found.append(reverse("ledger:bow", args=[proved.number]))
    return found
