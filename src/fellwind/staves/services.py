"""What is known of a stave: its moisture, its own figures, and where a bow may lie in it."""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from django.db.models import Prefetch, prefetch_related_objects
from django.utils import timezone

from bowyery import stave as core
from bowyery.design import Solution
from bowyery.errors import BowyeryError
from bowyery.materials import at_moisture, material
from bowyery.placement import Fit, Outline, Placement, advice_when_none, outline_of, place
from bowyery.seasoning import FAST, Drying, balance_moisture, drying, meter_error
from bowyery.stave import BendTest, bend_test
from fellwind.cache import computed
from fellwind.staves.models import Flaw, Stave, StripTest, Weighing
from fellwind.workshop.measures import Units
from fellwind.workshop.models import Workshop

WORKABLE = 0.10
_ACROSS = ("width", "depth", "crown", "side", "sideways", "twist")


@dataclass(frozen=True)
class Seasoning:
    """A stave's weighings and meter readings that count, the balance of the shop's air, and the forecast or why none."""

    weighings: list[Weighing]
    balance: float
    forecast: Drying | None
    trouble: str
    ready: timezone.datetime | None = None
    early: timezone.datetime | None = None
    late: timezone.datetime | None = None
    warnings: tuple[str, ...] = ()


OVERDUE = 45  # days without a weighing, while it still dries


def drying_warnings(
    found: Drying, weighings: list[Weighing], today: timezone.datetime, acquired: timezone.datetime
) -> tuple[str, ...]:
    """What the weighings say that ought to be looked at."""
    said = []
    if weighings[0].day < acquired:
        said.append(
            f"The first reading is of {weighings[0].day:%-d %B %Y}, before the stave came into the rack on {acquired:%-d %B %Y}:"
            " see which day is right."
        )
    if found.steepest > FAST:
        said.append(
            f"It lost {found.steepest * 100:.1f} % of moisture a day at its fastest; so fast it may check. Seal the ends and"
            " put it where the air is cooler and still."
        )
    masses = [w.mass for w in weighings if w.mass]
    if any(later > 1.01 * earlier for earlier, later in pairwise(masses)):
        said.append("A weighing rose: it took up water, or a figure is wrong. Correct it, or weigh it again.")
    last = next((w for w in reversed(weighings) if w.meter is not None), None)
    if last is not None and found.dry_mass is not None:
        there = float(np.interp((last.day - weighings[0].day).days, found.curve_days, found.curve))
        if abs(there - last.meter) > 2.5 * float(meter_error(np.array(last.meter))):
            said.append(
                f"The meter says {last.meter * 100:.1f} %, the weighings {there * 100:.1f} %. A meter reads one wood's skin; try"
                " it inside a fresh cut, or set it to this wood."
            )
    since = (today - weighings[-1].day).days
    if found.ready_in > 0 and since > OVERDUE:
        said.append(f"It was weighed {since} days ago; weigh it again to sharpen the date.")
    return tuple(said)


def seasoning(stave: Stave, workshop: Workshop) -> Seasoning:
    """Forecast when a stave is dry enough, from scale and meter (rows prefetched with their corrections)."""
    balance = balance_moisture(workshop.air_celsius, workshop.air_humidity)
    weighings = [w for w in stave.weighings.all() if not hasattr(w, "corrected_by")]
    first = weighings[0].day if weighings else None
    by_day = {(w.day - first).days: w.mass for w in weighings if w.mass}
    read = {(w.day - first).days: w.meter for w in weighings if w.meter}
    today = timezone.localdate()
    series = (tuple(by_day), tuple(by_day.values()), balance, WORKABLE, float((today - first).days if first else 0))
    inputs = (*series, tuple(read), tuple(read.values()))
    try:
        found = computed("drying", inputs, lambda: drying(*inputs))
    except BowyeryError as error:
        return Seasoning(weighings, balance, None, str(error))

    def day(wait: float) -> timezone.datetime:
        return today + timezone.timedelta(days=min(round(wait), 3650))

    days = (day(found.ready_in), day(found.ready_range[0]), day(found.ready_range[1]))
    return Seasoning(weighings, balance, found, "", *days, drying_warnings(found, weighings, today, stave.acquired))


def seasoning_now(stave: Stave) -> Seasoning:
    """The same for one stave whose readings are not fetched yet."""
    prefetch_related_objects([stave], Prefetch("weighings", Weighing.objects.select_related("corrected_by")))
    return seasoning(stave, Workshop.get())


def core_stave(stave: Stave) -> core.Stave:
    """The core's view of a stave row with its standing sections and flaws; raises DescriptionError."""
    rows = [s for s in stave.sections.all() if s.stands]
    columns = {name: [(s.at, getattr(s, name)) for s in rows if getattr(s, name) is not None] for name in _ACROSS}
    at = np.array([0.0, *(s.at for s in rows if 0 < s.at < stave.length), stave.length])

    def along(name: str, usual: float) -> np.ndarray:
        given = columns[name]
        return np.interp(at, *zip(*given, strict=True)) if given else np.full(at.size, usual)

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
    flaws = tuple(core.Flaw(f.kind, f.at, f.off, f.length, f.width, f.depth, f.face) for f in standing_flaws(stave))
    drift = stave.drift / stave.drift_over if stave.drift and stave.drift_over else 0.0
    return core.checked(
        core.Stave(
            stave.length, at, along("width", stave.width), along("depth", stave.depth), crown, side_at, side, face_at, face,
            np.array(twist_at), np.radians(twist), stave.sapwood, drift, (stave.cut_left, stave.cut_right), flaws,
        )
    )  # fmt: skip


def standing_flaws(stave: Stave) -> list[Flaw]:
    """Flaws that count, in order along the stave."""
    return [f for f in stave.flaws.all() if f.stands]


TURN_OVER = ("board", "lamination", "glass")
BUILT_UP = (*TURN_OVER, "bamboo slat")  # flat stock, on which the handle is a block glued on


def fitted(stave: Stave, found: Solution) -> tuple[core.Stave, Outline, Fit]:
    """Every placement of a solved design in a stave; raises BowyeryError."""
    wood, outline = core_stave(stave), outline_of(found)
    either = stave.kind in TURN_OVER
    if stave.kind in BUILT_UP:
        limbs = max(float(limb.thickness.max()) for limb in found.bow.limbs)
        outline = replace(outline, depth=np.minimum(outline.depth, limbs))
    fit = computed("fit", (wood, outline, either), lambda: place(wood, outline, either))
    return wood, outline, fit


# Less than this is within what a bench measures, or what finishing takes out.
TELLING_TWIST, TELLING_UNEVEN, TELLING_WAVE = np.radians(2.5), 0.006, 0.0045
FATES = {
    "off the ends": "falls off the end of the bow",
    "off the edge": "is sawn away with the edge",
    "in the handle": "lies in the handle, where hardly anything bends",
    "at the tip": "lies near the tip, which bends little",
    "in the limb": "lies in the limb",
    "on the edge": "is cut by the limb's edge",
}


def reasons(stave: Stave, placed: Placement, shown: Units) -> list[str]:
    """Why a placement is as good as it is, in sentences."""
    flaws = standing_flaws(stave)
    said = []
    for fate in sorted(placed.fates, key=lambda f: -f.cost):
        flaw = flaws[fate.flaw]
        if fate.fate not in ("in the limb", "on the edge"):
            said.append(f"Flaw {fate.flaw + 1}, the {flaw.kind}, {FATES[fate.fate]}.")
            continue
        limb = "upper" if fate.from_middle > 0 else "lower"
        text = (
            f"Flaw {fate.flaw + 1}, the {flaw.kind}, {FATES[fate.fate]}: {limb} limb, {shown.length(abs(fate.from_middle))} from"
            f" the middle, on the {fate.face}, where the wood is bent to {fate.use * 100:.0f} % of what it bears."
        )
        kind = core.FLAWS[flaw.kind]
        if fate.cost > 0.25:
            text += f" {kind.mend.capitalize()}."
        if kind.leave_wood and fate.room < flaw.width / 2:
            text += f" There is only {shown.length(fate.room)} to spare beside it."
        said.append(text)
    if placed.narrow > 0.0005:
        said.append(f"The stave is {shown.length(placed.narrow)} too narrow on a side at its worst place.")
    if placed.thin > 0.0005:
        said.append(f"It is {shown.length(placed.thin)} too thin at its worst place.")
    if placed.crown > 0.3:
        said.append("Its back is high-crowned: the middle of the back takes most of the stretch. A narrower bow suits it.")
    if placed.grain > 0.6:
        said.append(
            "The grain drifts off the limb's edge before it reaches the tip; such a back lifts. Back it, or take another board."
        )
    if placed.sapwood > 0.3:
        said.append("The sapwood is more than half of the limb in places; take it down to an even share of the depth.")
    if abs(placed.twist) > TELLING_TWIST:
        said.append(
            f"The wood twists {abs(np.degrees(placed.twist)):.0f}° from nock to nock: straighten it by heat on a form"
            " before the tiller, a little too far, and let it rest."
        )
    if abs(placed.uneven) > TELLING_UNEVEN:
        limb, other = ("upper", "lower") if placed.uneven > 0 else ("lower", "upper")
        said.append(
            f"By nature the {limb} limb's tip comes {shown.length(abs(placed.uneven))} nearer the belly than the {other} one's:"
            " make them alike by heat, or judge the tiller by the bend and not by the shape."
        )
    if placed.wave > TELLING_WAVE:
        said.append(
            f"Dips and humps stray {shown.length(placed.wave)} from an even curve within a limb: follow them on the belly, so"
            " that the thickness runs evenly, and judge the tiller by the bend."
        )
    return said or ["Nothing lies in its way."]


INSTEAD = {
    "shorter": "a shorter bow, which has more places to lie",
    "other stave": "another stave",
    "narrower": "a narrower bow",
    "thinner": "a thinner bow or handle",
    "gentler": "a bow that works the wood less: longer, wider or lighter",
}


def instead(stave: core.Stave, outline: Outline, fit: Fit | None) -> str:
    """What to change when no placement is a sound one."""
    return "What would help: " + ", or ".join(INSTEAD[k] for k in advice_when_none(stave, outline, fit)) + "."


def advice_of(stave: Stave, found: Solution) -> str:
    """What would help where the bow cannot even be laid on the stave."""
    try:
        wood = core_stave(stave)
    except BowyeryError:
        return ""
    outline = outline_of(found)
    low, high = wood.usable
    return instead(wood, outline, None) if high - low < outline.length else ""


def own_figures(stave: Stave, test: StripTest) -> BendTest:
    """Modulus and density from a strip test, brought to 12 % moisture; raises DescriptionError."""
    found = bend_test(test.span, test.load, test.sag, test.width, test.depth, test.length, test.mass)
    book = material(stave.material)
    here = at_moisture(book, test.moisture)
    stiff, heavy = book.modulus / here.modulus, book.density / here.density
    return BendTest(
        found.modulus * stiff,
        found.modulus_error * stiff,
        None if found.density is None else found.density * heavy,
        None if found.density_error is None else found.density_error * heavy,
    )
