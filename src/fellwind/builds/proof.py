"""What was measured at proof, kept and reckoned."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from bowyery.bow.bow import Bow
from bowyery.design.alterations import stiffer
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.mechanics.shot import Shot, hysteresis, shoot
from bowyery.record.evidence import energy_kept
from bowyery.record.proof import (
    WEIGHT_ERROR,
    Against,
    Pulled,
    Several,
    efficiency,
    efficiency_band,
    pulled,
    several,
    stored_at,
)
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import Units, World
from fellwind.builds.forms import ProofForm
from fellwind.builds.models import Build, Entry, Measure
from fellwind.builds.ports import STRING_ON, WEIGHT_FORECAST
from fellwind.designs.answers import ProvedShot
from fellwind.designs.models import Design
from fellwind.designs.ports import PROVED_SHOTS
from fellwind.drawing.curve import CurveData
from fellwind.kit.cache import computed
from fellwind.people.models import Person
from fellwind.shop.learning import keeps, set_share

_FOLLOW = ("follow after a day", "follow after an hour", "string follow")
_SHOT = ("weight", "arrow mass", "arrow speed")


@dataclass(frozen=True)
class Proof:
    """What was measured at proof, and what follows from it.

    Attributes:
        off: weight over what was wanted (N).
        efficiency: arrow's energy over the stored energy, with its band of 90 %.
        energy: stored, by the curve at this weight (J).
        shots: of the chronograph, where several were read.
        pull: one slow pull against the curve.
        says: what that says about wood and limbs.
    """

    entry: Entry
    figures: dict[str, Measure]
    off: float
    efficiency: float | None
    energy: float | None
    band: tuple[float, float, float] | None = None
    shots: Several | None = None
    pull: Pulled | None = None
    against: tuple[Against, ...] = ()
    says: tuple[str, ...] = ()

    @property
    def day(self) -> date:
        """On which it was proved, where the shop is."""
        return timezone.localdate(self.entry.at)

    @property
    def follow(self) -> float | None:
        """String follow as it was read last, after a day before an hour before at once (m)."""
        return last_follow({kind: m.value for kind, m in self.figures.items()})


def last_follow(values: Mapping[str, float | None]) -> float | None:
    """String follow as it was read last, from a proof's figures by kind (m)."""
    found = (values.get(kind) for kind in _FOLLOW)
    return next((value for value in found if value is not None), None)


def proof(build: Build, found: Solution | None) -> Proof | None:
    """The newest proof of a build, with efficiency from the curve at the measured weight."""
    rows = build.entries.filter(kind="proof", corrected_by=None).prefetch_related("measures")
    entry = rows.order_by("-at", "-pk").first()
    if entry is None:
        return None
    measures = list(entry.measures.all())
    figures = {m.kind: m for m in measures if m.kind not in ("shot speed", "pull")}
    values = {kind: m.value or 0.0 for kind, m in figures.items()}
    off = values["weight"] - build.design.weight
    if found is None:
        return Proof(entry, figures, off, None, None)
    energy, spread = stored_at(found.curve, values["weight"]), WEIGHT_ERROR
    pull = None
    reads = [(m.draw or 0.0, m.value or 0.0) for m in measures if m.kind == "pull"]
    if reads:
        try:
            pull = pulled(found.curve, reads)
        except DescriptionError:
            pull = None
        else:
            energy, spread = pull.energy[0], pull.error
    share = band = shots = None
    if "arrow mass" in values and "arrow speed" in values:
        each = [m.value or 0.0 for m in measures if m.kind == "shot speed"]
        shots = several(each or [values["arrow speed"]])
        share = efficiency(values["arrow mass"], values["arrow speed"], energy)
        band = efficiency_band(values["arrow mass"], shots, (energy, energy * spread))
    told = Proof(entry, figures, off, share, energy, band, shots, pull)
    return replace(told, against=_against(build, found, values, entry))


def _against(
    build: Build, found: Solution, values: dict[str, float], entry: Entry
) -> tuple[Against, ...]:
    """Every forecast that was made of what was now measured, by what the shop knew before it."""
    rows = []
    band = WEIGHT_FORECAST.first(build, entry.at)
    if band is not None:
        low, middle, high = band
        rows.append(Against("weight", low, middle, high, values["weight"]))
    follow = last_follow(values)
    if follow is not None:
        told = replace(found.set, share=set_share(build.design, build.number, entry.at))
        rows.append(Against("string follow", told.low, told.follow, told.high, follow))
    if "mass" in values and found.mass > 0:
        low, high = 0.92 * found.mass, 1.08 * found.mass  # book densities are so far off
        rows.append(Against("mass", low, found.mass, high, values["mass"]))
    shot = _foretold(build, found, values, keeps(build.design, build.number, entry.at))
    if shot is not None:
        rows.append(Against("arrow speed", shot.low, shot.speed, shot.high, values["arrow speed"]))
    return tuple(rows)


def _foretold(
    build: Build, found: Solution, values: dict[str, float], kept: tuple[float, float]
) -> Shot | None:
    """The shot as it would have been foretold of this weight, arrow and string, unread."""
    if "arrow mass" not in values or "arrow speed" not in values:
        return None
    bow = strung(build, found)
    scale = values["weight"] / found.weight
    stiff = stiffer(bow, scale)
    draw, arrow = build.design.draw, values["arrow mass"]
    try:
        return computed("foretold", (stiff, draw, arrow, kept),
                        lambda: shoot(stiff, draw, arrow, keeps=kept))  # fmt: skip
    except BowyeryError:
        return None


def strung(build: Build, found: Solution) -> Bow:
    """The bow with its own string on, as it was weighed, where it has one."""
    on = STRING_ON.first(build)
    return found.bow if on is None else replace(found.bow, string=on[1])


def says(build: Build, found: Solution, proved: Proof, shown: Units) -> list[str]:
    """What the proof says about set and losses, in sentences."""
    values = {kind: m.value or 0.0 for kind, m in proved.figures.items()}
    design, at = build.design, proved.entry.at
    reckoned = set_share(design, build.number, at)
    said = []
    follow = last_follow(values)
    if follow is not None and found.set.beyond > 0.004:
        share = found.set.excess_in(follow) / found.set.beyond
        said.append(
            f"Of the bend beyond its limit {max(share, 0.0) * 100:.0f} % stayed;"
            f" {reckoned.share * 100:.0f} % was reckoned with."
        )
    if "arrow speed" in values and "arrow mass" in values:
        kept = keeps_shown(build, found, values)
        wooden = keeps(design, build.number, at)[0]
        usual = 0.5 * sum(hysteresis(limb, wooden) for limb in found.bow.limbs)
        if kept is not None:
            said.append(
                f"By the arrow's speed its limbs keep {kept[0] * 100:.0f} % of the energy;"
                f" {usual * 100:.0f} % was reckoned with."
            )
        else:
            said.append(
                "No loss of the limbs explains this speed: see whether draw, arrow and chronograph"
                " are as written."
            )
    if proved.pull is not None and proved.pull.odd:
        said.append(f"Of the pull {len(proved.pull.odd)} did not fit the others, and stayed out.")
    return said


def keeps_shown(
    build: Build, found: Solution, values: Mapping[str, float]
) -> tuple[float, float] | None:
    """The share of the energy that a bow's limbs keep, by the arrow's speed at proof, and one
    deviation; None where no share explains it.
    """
    bow = stiffer(strung(build, found), values["weight"] / found.weight)
    key = (bow, build.design.draw, values["arrow mass"], values["arrow speed"])
    try:
        return computed("implied", key, lambda: energy_kept(*key))
    except BowyeryError:
        return None


def proof_curve(build: Build, found: Solution, proved: Proof) -> CurveData:
    """The curve at the weight of the proof, on the build's draw ruler, with that weight marked."""
    design, drawn = build.design, found.curve.drawn
    beyond = draw_ruler(build.draw_ruler).beyond(design.figures.handle_depth)
    weight = proved.figures["weight"]
    pulls = weight.value or 0.0
    read = [
        ((m.draw or 0.0) + beyond, m.value or 0.0)
        for m in proved.entry.measures.all()
        if m.kind == "pull"
    ]
    return CurveData(
        drawn.draw + beyond,
        drawn.weight * (pulls / found.weight),
        design.weight,
        design.draw + beyond,
        measured=[*read, ((weight.draw or design.draw) + beyond, pulls)],
    )


def keep_proof(build: Build, form: ProofForm, world: World, by: Person, at: datetime) -> bool:
    """Write down a proof, once for its client id; whether it is new."""
    data = form.cleaned_data
    client_id: UUID = data["client_id"]
    with transaction.atomic():
        entry, new = Entry.objects.get_or_create(
            client_id=client_id,
            defaults={
                "build": build,
                "kind": "proof",
                "stage": "proof",
                "text": form.line(),
                "world": world,
                "by": by,
                "at": at,
            },
        )
        if new:
            draws = {"weight": build.design.draw}
            Measure.objects.bulk_create(
                Measure(entry=entry, kind=kind, value=value, text=text, draw=draws.get(kind))
                for kind, value, text in form.figures()
            )
            beyond = draw_ruler(build.draw_ruler).beyond(build.design.figures.handle_depth)
            Measure.objects.bulk_create(
                Measure(entry=entry, kind="pull", value=weight.value, draw=draw.value - beyond,
                        text=f"{weight.text} at {draw.text}"[:80])
                for weight, draw in form.pulls()
            )  # fmt: skip
    return new


@PROVED_SHOTS.answered_by
def proved_shots(design: Design) -> list[ProvedShot]:
    """The arrows that a chronograph read on a design's bows, newest last."""
    rows = Measure.objects.filter(
        entry__build__design=design,
        entry__kind="proof",
        entry__corrected_by=None,
        kind__in=_SHOT,
    ).order_by("entry__at")
    found: dict[int, dict[str, float]] = {}
    for row in rows:
        found.setdefault(row.entry_id, {})[row.kind] = row.value or 0.0
    return [ProvedShot(*(f[k] for k in _SHOT)) for f in found.values() if len(f) == len(_SHOT)]
