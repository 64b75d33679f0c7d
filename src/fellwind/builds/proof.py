"""What was measured at proof, kept and reckoned."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.db import transaction

from bowyery.design.solution import Solution
from bowyery.record.proof import efficiency, stored_at
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import World
from fellwind.builds.forms import ProofForm
from fellwind.builds.models import Build, Entry, Measure
from fellwind.designs.models import Design
from fellwind.designs.services import ProvedShot
from fellwind.drawing.curve import CurveData
from fellwind.people.models import Person

_FOLLOW = ("follow after an hour", "string follow")
_SHOT = ("weight", "arrow mass", "arrow speed")


@dataclass(frozen=True)
class Proof:
    """What was measured at proof, and what follows from it.

    Attributes:
        entry: as written.
        figures: by kind.
        off: weight over what was wanted (N).
        efficiency: arrow's energy over the stored energy.
        energy: stored, by the curve at this weight (J).
    """

    entry: Entry
    figures: dict[str, Measure]
    off: float
    efficiency: float | None
    energy: float | None


def proof(build: Build, found: Solution | None) -> Proof | None:
    """The newest proof of a build, with efficiency from the curve at the measured weight."""
    rows = build.entries.filter(kind="proof", corrected_by=None).prefetch_related("measures")
    entry = rows.order_by("-at", "-pk").first()
    if entry is None:
        return None
    figures = {m.kind: m for m in entry.measures.all()}
    values = {kind: m.value or 0.0 for kind, m in figures.items()}
    energy = share = None
    if found is not None:
        energy = stored_at(found.curve, values["weight"])
        if "arrow mass" in values and "arrow speed" in values:
            share = efficiency(values["arrow mass"], values["arrow speed"], energy)
    return Proof(entry, figures, values["weight"] - build.design.weight, share, energy)


def proof_curve(build: Build, found: Solution, proved: Proof) -> CurveData:
    """The curve at the weight of the proof, on the build's draw ruler, with that weight marked."""
    design, drawn = build.design, found.curve.drawn
    beyond = draw_ruler(build.draw_ruler).beyond(design.handle_depth)
    weight = proved.figures["weight"]
    pulls = weight.value or 0.0
    return CurveData(
        drawn.draw + beyond,
        drawn.weight * (pulls / found.weight),
        design.weight,
        design.draw + beyond,
        measured=[((weight.draw or design.draw) + beyond, pulls)],
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
    return new


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


def proved_follows() -> list[tuple[Design, float]]:
    """String follow of every proved bow, with its design: after an hour where that was read, else
    at once (m).
    """
    rows = (
        Measure.objects.filter(
            entry__kind="proof", entry__corrected_by=None, kind__in=_FOLLOW, value__isnull=False
        )
        .select_related("entry__build__design__archer", "entry__build__design__stave")
        .order_by("entry__at")
    )
    found: dict[int, dict[str, Measure]] = {}
    for row in rows:
        found.setdefault(row.entry.build_id, {})[row.kind] = row
    last = [next(read[kind] for kind in _FOLLOW if kind in read) for read in found.values()]
    return [(row.entry.build.design, row.value or 0.0) for row in last]
