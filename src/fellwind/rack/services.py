"""What is known of a stave: its moisture, its shape, its own figures; and how they are kept."""

from dataclasses import dataclass
from datetime import date, timedelta
from itertools import pairwise

import numpy as np
from django.db import transaction
from django.db.models import Max, Prefetch, QuerySet, prefetch_related_objects
from django.utils import timezone

from bowyery.errors import BowyeryError
from bowyery.units.quantity import Units
from bowyery.wood import stave as core
from bowyery.wood.materials import Material, at_moisture, overridden
from bowyery.wood.seasoning import FAST, Drying, balance_moisture, drying, meter_error
from bowyery.wood.stave import BendTest, bend_test
from fellwind.drawing.stave import drying_picture, small_stave
from fellwind.kit.cache import computed
from fellwind.kit.pages import number_in
from fellwind.people.models import Person
from fellwind.rack.forms import StaveForm, WeighingForm
from fellwind.rack.models import Flaw, Stave, StripTest, Weighing
from fellwind.shop.book import material
from fellwind.shop.models import Workshop

WORKABLE = 0.10
_ACROSS = ("width", "depth", "crown", "side", "sideways", "twist")


@dataclass(frozen=True)
class Seasoning:
    """A stave's weighings and meter readings that count, the balance of the shop's air, and the
    forecast or why none.
    """

    weighings: list[Weighing]
    balance: float
    forecast: Drying | None
    trouble: str
    ready: date | None = None
    early: date | None = None
    late: date | None = None
    warnings: tuple[str, ...] = ()


OVERDUE = 45  # days without a weighing, while it still dries


def drying_warnings(
    found: Drying, weighings: list[Weighing], today: date, acquired: date
) -> tuple[str, ...]:
    """What the weighings say that ought to be looked at."""
    said = []
    if weighings[0].day < acquired:
        said.append(
            f"The first reading is of {weighings[0].day:%-d %B %Y}, before the stave came into the"
            f" rack on {acquired:%-d %B %Y}: see which day is right."
        )
    if found.steepest > FAST:
        said.append(
            f"It lost {found.steepest * 100:.1f} % of moisture a day at its fastest; so fast it may"
            " check. Seal the ends and put it where the air is cooler and still."
        )
    masses = [w.mass for w in weighings if w.mass]
    if any(later > 1.01 * earlier for earlier, later in pairwise(masses)):
        said.append(
            "A weighing rose: it took up water, or a figure is wrong. Correct it, or weigh it"
            " again."
        )
    last = next((w for w in reversed(weighings) if w.meter is not None), None)
    if last is not None and last.meter is not None and found.dry_mass is not None:
        there = float(np.interp((last.day - weighings[0].day).days, found.curve_days, found.curve))
        if abs(there - last.meter) > 2.5 * float(meter_error(np.array(last.meter))):
            said.append(
                f"The meter says {last.meter * 100:.1f} %, the weighings {there * 100:.1f} %. A"
                " meter reads one wood's skin; try it inside a fresh cut, or set it to this wood."
            )
    since = (today - weighings[-1].day).days
    if found.ready_in > 0 and since > OVERDUE:
        said.append(f"It was weighed {since} days ago; weigh it again to sharpen the date.")
    return tuple(said)


def seasoning(stave: Stave, workshop: Workshop) -> Seasoning:
    """Forecast when a stave is dry enough, from scale and meter (rows prefetched with their
    corrections).
    """
    balance = balance_moisture(workshop.air_celsius, workshop.air_humidity)
    weighings = [w for w in stave.weighings.all() if not hasattr(w, "corrected_by")]
    first = weighings[0].day if weighings else timezone.localdate()
    by_day = {(w.day - first).days: w.mass for w in weighings if w.mass}
    read = {(w.day - first).days: w.meter for w in weighings if w.meter}
    today = timezone.localdate()
    series = (
        tuple(by_day),
        tuple(by_day.values()),
        balance,
        WORKABLE,
        float((today - first).days),
    )
    inputs = (*series, tuple(read), tuple(read.values()))
    try:
        found = computed("drying", inputs, lambda: drying(*inputs), bends=False)
    except BowyeryError as error:
        return Seasoning(weighings, balance, None, str(error))

    def day(wait: float) -> date:
        return today + timedelta(days=min(round(wait), 3650))

    days = (day(found.ready_in), day(found.ready_range[0]), day(found.ready_range[1]))
    return Seasoning(
        weighings,
        balance,
        found,
        "",
        *days,
        drying_warnings(found, weighings, today, stave.acquired),
    )


def seasoning_now(stave: Stave) -> Seasoning:
    """The same for one stave whose readings are not fetched yet."""
    prefetch_related_objects(
        [stave], Prefetch("weighings", Weighing.objects.select_related("corrected_by"))
    )
    return seasoning(stave, Workshop.get())


def core_stave(stave: Stave) -> core.Stave:
    """The core's view of a stave row with its standing sections and flaws; raises
    DescriptionError.
    """
    rows = [s for s in stave.sections.all() if s.stands]
    columns = {
        name: [(s.at, getattr(s, name)) for s in rows if getattr(s, name) is not None]
        for name in _ACROSS
    }
    at = np.array([0.0, *(s.at for s in rows if 0 < s.at < stave.length), stave.length])

    def along(name: str, usual: float) -> np.ndarray:
        given = columns[name]
        if not given:
            return np.full(at.size, usual)
        places, sizes = np.array(given).T
        found: np.ndarray = np.interp(at, places, sizes)
        return found

    def profile(name: str) -> tuple[np.ndarray, np.ndarray]:
        given = dict(columns[name])
        if not given:
            return np.array([0.0, stave.length]), np.zeros(2)
        given = {0.0: 0.0, stave.length: 0.0} | given
        places = np.array(sorted(given))
        return places, np.array([given[p] for p in places])

    crown = along("crown", np.inf)
    side_at, side = profile("side")
    if not columns["side"] and stave.reflex:
        # only the reflex of the ends is known: an even bend
        side_at = np.linspace(0.0, stave.length, 5)
        side = stave.reflex * (1 - (2 * side_at / stave.length - 1) ** 2)
    face_at, face = profile("sideways")
    twist_at, twist = zip(*({0.0: 0.0} | dict(columns["twist"])).items(), strict=True)
    flaws = tuple(
        core.Flaw(f.kind, f.at, f.off, f.length, f.width, f.depth, f.face)
        for f in standing_flaws(stave)
    )
    drift = stave.drift / stave.drift_over if stave.drift and stave.drift_over else 0.0
    return core.checked(
        core.Stave(
            stave.length,
            at,
            along("width", stave.width),
            along("depth", stave.depth),
            crown,
            side_at,
            side,
            face_at,
            face,
            np.array(twist_at),
            np.radians(twist),
            stave.sapwood,
            drift,
            (stave.cut_left, stave.cut_right),
            flaws,
            stave.sawn,
        )
    )


def standing_flaws(stave: Stave) -> list[Flaw]:
    """Flaws that count, in order along the stave."""
    return [f for f in stave.flaws.all() if f.stands]


def own_wood(stave: Stave) -> Material:
    """A stave's wood at 12 %: the book's, with what was measured on the stave itself."""
    return overridden(material(stave.material), stave.modulus, stave.rupture, stave.density)


def own_figures(stave: Stave, test: StripTest) -> BendTest:
    """Modulus and density from a strip test, brought to 12 % moisture; raises DescriptionError."""
    found = bend_test(
        test.span, test.load, test.sag, test.width, test.depth, test.length, test.mass
    )
    book = material(stave.material)
    here = at_moisture(book, test.moisture)
    stiff, heavy = book.modulus / here.modulus, book.density / here.density
    return BendTest(
        found.modulus * stiff,
        found.modulus_error * stiff,
        None if found.density is None else found.density * heavy,
        None if found.density_error is None else found.density_error * heavy,
    )


def staves() -> QuerySet[Stave]:
    """Staves with what their pages read."""
    weighings = Weighing.objects.select_related("corrected_by", "by")
    return Stave.objects.prefetch_related(
        Prefetch("weighings", weighings), "designs", "builds", "flaws", "sections"
    )


def small_picture(stave: Stave) -> str:
    """A stave's outline for lists, or nothing where it cannot be drawn."""
    try:
        return small_stave(core_stave(stave))
    except BowyeryError:
        return ""


def drying_curve(found: Seasoning) -> str:
    """The fall of a stave's moisture, drawn; nothing before there is a forecast."""
    if found.forecast is None:
        return ""
    one, first = found.forecast, found.weighings[0].day
    dry = one.dry_mass

    def days(w: Weighing) -> float:
        return float((w.day - first).days)

    weighed = [(days(w), w.mass / dry - 1) for w in found.weighings if w.mass and dry]
    read = [(days(w), w.meter) for w in found.weighings if w.meter]
    wanted = max(WORKABLE, found.balance + 0.005)
    return drying_picture(
        one.curve_days, one.curve, one.low, one.high, weighed, read, wanted, found.balance
    )


def correcting(stave: Stave, key: str | None) -> dict[str, object]:
    """Values of a weighing that is to be corrected, for its form; nothing where there is none."""
    pk = number_in(key)
    wrong = stave.weighings.filter(corrected_by=None, pk=pk).first() if pk else None
    if wrong is None:
        return {}
    return {"corrects": wrong.pk, "mass": wrong.mass, "meter": wrong.meter, "day": wrong.day}


def keep_weighing(stave: Stave, form: WeighingForm, by: Person) -> bool:
    """Keep a weighing once for its id; whether it is new."""
    data = form.cleaned_data
    with transaction.atomic():
        _, new = Weighing.objects.get_or_create(
            client_id=data["client_id"],
            defaults={
                "stave": stave,
                "day": data["day"],
                "mass": form.value("mass"),
                "text": form.text("mass"),
                "meter": form.value("meter"),
                "meter_text": form.text("meter"),
                "by": by,
                "corrects": data["corrects"],
            },
        )
    return new


def keep_stave(stave: Stave, form: StaveForm) -> None:
    """Keep a stave; a new one takes the next number."""
    with transaction.atomic():
        if not stave.number:
            stave.number = (Stave.objects.aggregate(top=Max("number"))["top"] or 0) + 1
        form.save(stave)


def keep_strip(row: StripTest) -> BendTest:
    """Keep a bend test and give the stave its figures; raises DescriptionError."""
    stave = row.stave
    found = own_figures(stave, row)
    with transaction.atomic():
        row.save()
        stave.modulus, stave.density = found.modulus, found.density or stave.density
        stave.save(update_fields=["modulus", "density"])
    return found


def strip_words(found: BendTest, shown: Units) -> str:
    """What a bend test found, as a sentence."""
    modulus, error = shown.modulus(found.modulus), shown.modulus(found.modulus_error)
    return (
        f"Modulus {modulus}, give or take {error}, at 12 % moisture;"
        " every design from this stave uses it."
    )
