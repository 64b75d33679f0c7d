"""Where an instrument's lines go: into what waits for them, and to the shop's air."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

import numpy as np
from django.db import connection, transaction
from django.db.models import F
from django.utils import timezone

from bowyery.bow.bow import Bow
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.instruments import stand_in
from bowyery.instruments.lines import Said, read_lines
from bowyery.instruments.pull import Traced, count_pulls, traced
from bowyery.instruments.stand_in import Timed
from bowyery.mechanics import curve as force_curve
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import (
    BULK_MASS,
    INCH,
    KILOGRAM_FORCE,
    MASS,
    METRIC,
    POUND_FORCE,
    SPEED,
    Units,
    decimal,
)
from fellwind.builds import log
from fellwind.builds.models import Build, Entry
from fellwind.builds.ports import AS_TILLERED, INSTRUMENTS_SPEAK
from fellwind.designs.answers import loosed
from fellwind.designs.services import try_solution
from fellwind.instruments.live import Live, live
from fellwind.instruments.models import Instrument, TracedPull
from fellwind.people.models import Person
from fellwind.shop.models import Workshop

AIR_EVERY = 600.0  # seconds
AIR_MOVED = (0.5, 0.02)  # °C and share that the air must have changed by
FAR = 0.75  # of the way from taut to full that a stand-in pulls
MOST_SAMPLES = 3000
LEAST_SUNK = 0.5  # of a weight in the hold, to be written down (N)


@INSTRUMENTS_SPEAK.answered_by
def any_speaks() -> bool:
    """Whether any instrument has a token."""
    return Instrument.objects.filter(gone=False).exists()


def instruments(where: Live = live) -> list[Instrument]:
    """Every instrument, with what was counted but not written down yet."""
    rows = list(Instrument.objects.all())
    for row in rows:
        waiting = where.pending(row.pk)
        row.good, row.bad = row.good + waiting.good, row.bad + waiting.bad
        row.last_bad = waiting.last_bad or row.last_bad
    return rows


def hear(instrument: Instrument, text: str, where: Live = live) -> None:
    """Take what an instrument sent; bad lines are counted, never guessed."""
    said = list(read_lines(text))
    where.hear(instrument.pk, said)
    for one in said:
        if isinstance(one, Said) and one.what == "a":
            _air(one, where)
    due = where.due(instrument.pk)
    if due is not None:
        fresh = {"good": F("good") + due.good, "bad": F("bad") + due.bad, "heard": timezone.now()}
        if due.last_bad:
            fresh["last_bad"] = due.last_bad[:200]
        Instrument.objects.filter(pk=instrument.pk).update(**fresh)


def _air(said: Said, where: Live) -> None:
    """Let the shop's air follow its instrument, every ten minutes at most and where it moves."""
    moment, shop = where.now(), Workshop.get()
    if where.air_at is not None and moment - where.air_at < AIR_EVERY:
        return
    where.air_at = moment
    moved = abs(shop.air_celsius - said.value) >= AIR_MOVED[0]
    moved |= abs(shop.air_humidity - said.second) >= AIR_MOVED[1]
    if moved:
        shop.air_celsius, shop.air_humidity = said.value, said.second
        shop.save(update_fields=["air_celsius", "air_humidity"])


def typed(said: Said, shown: Units) -> dict[str, str]:
    """A reading as it would be typed into a field, by the field's quantity."""
    value, metric = said.value, shown.world == METRIC
    if said.what == "w":
        one, digits = (KILOGRAM_FORCE, 2) if metric else (POUND_FORCE, 1)
        return {"weight": decimal(value / one, digits)}
    if said.what == "t":
        return {"length": decimal(value * 1e3, 2) if metric else decimal(value / INCH, 3)}
    if said.what == "d":
        return {"length": shown.typed_length(value)}
    if said.what == "v":
        return {"speed": SPEED.bare(value, shown)}
    if said.what == "m":
        return {"moisture": decimal(value * 100, 1)}
    if said.what == "g":
        return {"mass": MASS.bare(value, shown), "bulk mass": BULK_MASS.bare(value, shown)}
    return {}


@dataclass(frozen=True)
class Now:
    """What instruments say just now, for a page that listens."""

    number: int
    lines: list[dict[str, object]]
    weight: float | None
    draw: float | None
    pulls: int
    trouble: str
    nobody: bool = False


def now(since: int, shown: Units, pull: bool, where: Live = live) -> Now:
    """Lines after one, as fields take them; with the state of a pull, where one is watched."""
    heard = where.since(since)
    if not heard and not pull and not any_speaks():
        return Now(where.number, [], None, None, 0, "", True)
    lines: list[dict[str, object]] = [
        {"number": h.number, "what": h.said.what, "typed": typed(h.said, shown)}
        for h in heard[-60:]
    ]
    if not pull:
        return Now(where.number, lines, None, None, 0, "")
    samples = where.samples(since)
    weight = next((s.value for s in reversed(samples) if s.what == "w"), None)
    draw = next((s.value for s in reversed(samples) if s.what == "d"), None)
    wrong = _several(since, where) or where.trouble(since)
    return Now(where.number, [], weight, draw, count_pulls(samples), wrong)


def _several(since: int, where: Live) -> str:
    """That more than one scale, or draw rule, spoke since a line: whose pull is it?"""
    speakers = where.speakers(since, "wd")
    for what, name in (("w", "scales speak"), ("d", "draw rules speak")):
        if len(speakers[what]) > 1:
            names = Instrument.objects.filter(pk__in=speakers[what]).values_list("name", flat=True)
            return (
                f"{len(speakers[what])} {name} at once, {' and '.join(names)}: silence all but one,"
                " stop watching, and watch and pull anew."
            )
    return ""


def line_of(pull: Traced) -> str:
    """A traced pull as it would be pencilled: a few weights at draws, the sinking of the last."""
    parts = []
    reads = pull.reads()
    for draw, weight in reads[:-1]:
        parts.append(f"{weight / KILOGRAM_FORCE:.2f} kg at {draw * 1e3:.0f} mm")
    (draw, weight), sank = reads[-1], pull.sank or 0.0
    left = weight * (1 - sank) / KILOGRAM_FORCE  # as it was read after the hold
    last = f"{left:.2f} kg at {draw * 1e3:.0f} mm"
    if sank * weight > LEAST_SUNK:
        last += f" sank {sank * weight / KILOGRAM_FORCE:.2f} kg"
    return ", ".join([*parts, last])


def keep_pull(
    build: Build, since: int, by: Person, client_id: UUID, at: datetime, where: Live = live
) -> tuple[Entry, Traced]:
    """Keep the pull that was traced since a line as a check, with its whole curve.

    Draws come as the build's own ruler has them.

    Raises:
        DescriptionError: there is none.
        UnreadableError: no bow pulls so.
    """
    samples = where.samples(since)
    if not samples:
        raise DescriptionError("Nothing was heard of the scale since you began.", "samples")
    several = _several(since, where)
    if several:
        raise DescriptionError(several, "samples")
    found = traced(samples)
    line = line_of(found)
    statements = log.read_line(build, line, METRIC)
    with transaction.atomic():
        entry, new = log.keep(build, line, statements, METRIC, by, client_id, at=at)
        if new:
            first = samples[0].at
            step = max(1, len(samples) // MOST_SAMPLES)
            rows = [[round(s.at - first, 2), s.what, round(s.value, 4)] for s in samples[::step]]
            TracedPull.objects.create(entry=entry, samples=rows)
    return entry, found


# Stand-ins, played by the server itself.


def true_bow(build: Build) -> Bow | None:
    """The bow as it stands, as far as its own readings tell; as designed before any."""
    stands: Bow | None = AS_TILLERED.first(build)
    if stands is not None:
        return stands
    found, _ = try_solution(build.design)
    return found.bow if found else None


def lines_of(kind: str, build: Build | None, seed: int | None = None) -> Iterator[Timed]:
    """What a stand-in says, of a bow where it needs one.

    Raises:
        DescriptionError: it cannot be played.
    """
    rng = np.random.default_rng(seed)
    if kind == "balance":
        return stand_in.weighed(0.55 + 0.2 * float(rng.uniform()), rng)
    if kind == "meter":
        return stand_in.moisture(0.09 + 0.03 * float(rng.uniform()), rng)
    if kind == "air":
        shop = Workshop.get()
        return stand_in.air(shop.air_celsius, shop.air_humidity, rng)
    if build is None:
        raise DescriptionError("Say which bow it is at.", "build")
    bow = true_bow(build)
    if bow is None:
        raise DescriptionError("This bow's design cannot be solved.", "build")
    design, full = build.design, build.design.draw
    if kind == "chronograph":
        found, _ = try_solution(design)
        shot = loosed(design, found, quick=True)[0] if found else None
        if shot is None:
            raise DescriptionError("This bow's arrow cannot be followed.", "build")
        return stand_in.shots(shot.speed, 6, rng)
    if kind == "calipers":
        upper = bow.upper
        return stand_in.calipers([float(t) for t in upper.thickness], rng)
    try:
        solved = force_curve.solve(bow, np.array([full]))
        low = float(solved.braced.least_draw[0])
        draws = np.linspace(low * 1.001, full, 20)
        weights = force_curve.solve(bow, draws).drawn.weight
    except BowyeryError as error:
        raise DescriptionError(str(error), "build") from None
    beyond = draw_ruler(build.draw_ruler).beyond(design.figures.handle_depth)
    rows = [(float(d) + beyond, float(w)) for d, w in zip(draws, weights, strict=True)]
    return stand_in.pull(rows, low + FAR * (full - low) + beyond, rng)


class Player:
    """Plays a stand-in in the server, one at a time, in its own time."""

    def __init__(self) -> None:
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None

    def play(self, instrument: int, lines: Iterator[Timed], where: Live = live) -> None:
        """Play from now on; what was playing stops."""
        self.stop()
        self._stop = threading.Event()
        stop = self._stop

        def run() -> None:
            begun = where.now()
            for one in lines:
                wait = one.at - (where.now() - begun)
                if stop.wait(max(wait, 0.0)):
                    break
                where.hear(instrument, [one.said])
            connection.close()

        self._thread = threading.Thread(target=run, name="stand-in", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Stop what is playing."""
        self._stop.set()
        if self._thread is not None:
            self._thread.join(timeout=2.0)
            self._thread = None


player = Player()
