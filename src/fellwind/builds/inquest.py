"""How a build ends, and the inquest on a bow that broke."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from django import forms
from django.db import transaction
from django.utils import timezone

from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.limb_grid import grid
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.mechanics import curve as force_curve
from bowyery.record.inquest import CAUSES, HOWS, OPEN, Cause, Facts, inquest
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import Units
from fellwind.builds.models import Build, Entry, Inquest
from fellwind.builds.ports import AS_TILLERED, AT_THE_TREE
from fellwind.designs.pictures import ruler_data
from fellwind.designs.services import try_solution
from fellwind.drawing.roughing import broken_picture
from fellwind.kit.cache import computed
from fellwind.kit.measures import MeasuredForm, MeasureField
from fellwind.kit.versions import VersionedForm
from fellwind.people.models import Person
from fellwind.rack.services import core_stave, seasoning_now, standing_flaws


class EndForm(MeasuredForm):
    """How a build ends before or after its proof."""

    ending = forms.ChoiceField(choices=list(Build.ENDINGS.items()), label="This bow is")
    became = forms.ModelChoiceField(
        Build.objects.none(), required=False, empty_label="no other", label="It became",
        help_text="of a bow that was cut down",
    )  # fmt: skip
    words = forms.CharField(required=False, max_length=200, label="In words")

    def __init__(self, *args: Any, build: Build, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.build = build
        became = self.fields["became"]
        assert isinstance(became, forms.ModelChoiceField)
        became.queryset = Build.objects.exclude(pk=build.pk)

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if data.get("became") and data.get("ending") != "cut down":
            self.add_error("became", "Only a bow that is cut down becomes another.")
        if data.get("ending") == "finished" and self.build.stage != "proof":
            self.add_error("ending", "It is finished once it has been proved.")
        return data


@dataclass(frozen=True)
class EndPage:
    """How a build ends."""

    build: Build
    form: EndForm


class InquestForm(VersionedForm):
    """How and where a bow broke."""

    how = forms.ChoiceField(choices=list(HOWS.items()), label="What was seen")
    limb = forms.ChoiceField(choices=[(s, f"{s} limb") for s in SIDES], label="On the")
    place = MeasureField("place on a limb", label="from the bow's centre")
    draw = MeasureField("draw", required=False, label="at a draw of", help_text="empty: not known")
    words = forms.CharField(
        required=False, max_length=600, widget=forms.Textarea(attrs={"rows": 2}), label="In words"
    )
    judged = forms.ChoiceField(
        choices=[
            ("", "not judged yet"),
            *((name, one.words) for name, one in CAUSES.items()),
            ("other", "something else"),
        ],
        required=False,
        label="You judge",
    )

    def __init__(self, *args: Any, build: Build, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.build = build

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        place = data.get("place")
        half = self.build.design.length / 2 + 0.06
        if place and place.value > half:
            self.add_error("place", "That lies beyond the nock.")
        return data

    @staticmethod
    def initial_of(row: Inquest, build: Build, shown: Units) -> dict[str, Any]:
        """Values of an inquest, its draw on the build's own ruler."""
        beyond = draw_ruler(build.draw_ruler).beyond(build.design.figures.handle_depth)
        return {
            "how": row.how, "limb": row.limb, "place": row.place, "words": row.words,
            "judged": row.judged, "draw": None if row.draw is None else row.draw + beyond,
        }  # fmt: skip


@transaction.atomic
def end(build: Build, form: EndForm, by: Person) -> None:
    """Close a build however it ended, and say so in its log."""
    data = form.cleaned_data
    build.ending, build.ending_words = data["ending"], data["words"]
    build.became = data["became"]
    build.finished = build.finished or timezone.now()
    build.save(update_fields=["ending", "ending_words", "became", "finished"])
    text = f"The bow is {build.ended}"
    text += f": number {build.became.number}" if build.became else ""
    text += f"; {build.ending_words}" if build.ending_words else ""
    Entry.objects.create(build=build, kind="stage", stage=build.stage, text=text, by=by)


@transaction.atomic
def go_on_again(build: Build, by: Person) -> None:
    """Open a build again that was closed by mistake."""
    build.finished, build.ending, build.ending_words, build.became = None, "", "", None
    build.save(update_fields=["ending", "ending_words", "became", "finished"])
    text = "Opened again"
    Entry.objects.create(build=build, kind="stage", stage=build.stage, text=text, by=by)


@transaction.atomic
def keep(build: Build, form: InquestForm, row: Inquest, by: Person) -> None:
    """Write an inquest down; the build is then broken."""
    data = form.cleaned_data
    beyond = draw_ruler(build.draw_ruler).beyond(build.design.figures.handle_depth)
    draw = form.value("draw")
    row.build, row.by = build, by
    row.how, row.limb, row.place = data["how"], data["limb"], form.given("place")
    row.draw = None if draw is None else draw - beyond
    row.words, row.judged = data["words"], data["judged"]
    row.save()
    if build.ending != "broken":
        build.ending = "broken"
        build.finished = build.finished or timezone.now()
        build.save(update_fields=["ending", "finished"])
        text = f"The bow broke: {HOWS[row.how]}, {row.limb} limb"
        Entry.objects.create(build=build, kind="stage", stage=build.stage, text=text, by=by)


@dataclass(frozen=True)
class CauseRow:
    """A cause in words, with what speaks for it and against it."""

    cause: Cause
    words: str
    for_it: tuple[str, ...]
    against: tuple[str, ...]

    @property
    def width(self) -> str:
        """Of its bar, in hundredths."""
        return f"{100 * self.cause.share:.1f}"


@dataclass(frozen=True)
class InquestPage:
    """An inquest: where it broke, what the record shows, and the causes weighed."""

    build: Build
    form: InquestForm
    row: Inquest | None
    trouble: str = ""
    picture: str = ""
    facts: tuple[str, ...] = ()
    unknown: tuple[str, ...] = ()
    causes: tuple[CauseRow, ...] = ()


def inquest_page(build: Build, shown: Units, form: InquestForm | None = None) -> InquestPage:
    """The inquest of a build, as far as it is written."""
    row = Inquest.objects.filter(build=build).first()
    initial = InquestForm.initial_of(row, build, shown) if row else {}
    form = form or InquestForm(shown=shown, build=build, initial=initial, row=row)
    if row is None:
        return InquestPage(build, form, None)
    found, trouble = try_solution(build.design)
    if found is None:
        return InquestPage(build, form, row, trouble)
    facts = facts_of(build, row, found)
    words, unknown = _told(facts, build, row, shown)
    causes = tuple(
        CauseRow(
            cause, CAUSES[cause.name].words if cause.name else OPEN,
            tuple(words[e.fact] for e in cause.evidence if e.ratio > 1 and e.fact in words),
            tuple(words[e.fact] for e in cause.evidence if e.ratio < 1 and e.fact in words),
        )
        for cause in inquest(facts)
        if cause.share > 0.015
    )  # fmt: skip
    picture = broken_picture(ruler_data(found), SIDES.index(row.limb), row.place, shown)
    return InquestPage(build, form, row, "", picture, tuple(words.values()), tuple(unknown), causes)


def facts_of(build: Build, row: Inquest, found: Solution) -> Facts:
    """What the record tells of where a bow broke."""
    side = SIDES.index(row.limb)
    limb = found.bow.limbs[side]
    along = min(max(row.place - abs(limb.root[0]), 0.0), limb.length)
    bow = AS_TILLERED.first(build) or found.bow
    seen = AT_THE_TREE.first(build, side, along / limb.length)
    draw = row.draw or (seen.draw if seen else None)
    flaw, slope, moisture = _of_the_wood(build, row)
    return Facts(
        row.how,
        None if draw is None else _use(bow, side, along, draw),
        seen.bend[0] if seen and seen.bend else None,
        seen.bend[1] if seen and seen.bend else 0.08,
        flaw, slope, moisture,
        seen.pulls if seen else None,
        row.draw - seen.limit if seen and seen.limit and row.draw else None,
        seen.unseen if seen else None,
        len(bow.upper.layers) > 1,
    )  # fmt: skip


def _use(bow: Bow, side: int, along: float, draw: float) -> float | None:
    """Strain at a place at a draw, as a share of what its faces break at."""

    def work() -> float | None:
        limbs = grid(bow)
        try:
            curve = force_curve.solve_grid(limbs, bow, np.array([draw]))
        except BowyeryError:
            return None
        places = limbs.places()[side, 0]
        limb = bow.limbs[side]
        shares = []
        for strain, layer in ((curve.shapes.back, limb.layers[0]),
                              (curve.shapes.belly, limb.layers[-1])):  # fmt: skip
            if layer.rupture_strain:
                here = float(np.interp(along, places, np.abs(strain[side, -1])))
                shares.append(here / layer.rupture_strain)
        return max(shares, default=None)

    return computed("use at a place", (bow, side, along, draw), work)


def _of_the_wood(
    build: Build, row: Inquest
) -> tuple[tuple[str, float] | None, float | None, float | None]:
    """The nearest flaw, the slope of the grain, and the moisture, where they are known."""
    stave = build.stave
    if stave is None:
        return None, None, None
    flaw = None
    if build.laid is not None:
        centre = float(build.laid["start"]) + build.design.length / 2
        up = -1.0 if build.laid.get("turned") else 1.0
        way = 1.0 if row.limb == "upper" else -1.0
        place = centre + up * way * row.place
        near = sorted((abs(one.at - place), one.kind) for one in standing_flaws(stave))
        if near:
            flaw = (near[0][1], near[0][0])
    slope = moisture = None
    try:
        drift = core_stave(stave).drift if stave.drift is not None else None
        slope = None if drift is None else math.atan(abs(drift))
        known = seasoning_now(stave).forecast
        moisture = known.moisture if known else None
    except BowyeryError:
        pass
    return flaw, slope, moisture


def _told(
    facts: Facts, build: Build, row: Inquest, shown: Units
) -> tuple[dict[str, str], list[str]]:
    """Each fact in words, and what is not known."""
    said = {"how": f"{HOWS[facts.how][:1].upper()}{HOWS[facts.how][1:]}."}
    unknown = []
    if facts.use is None:
        unknown.append("the strain there: no draw was written")
    else:
        said["use"] = f"It was bent to {facts.use * 100:.0f} % of what its wood breaks at, there."
    if facts.bend is None:
        unknown.append("how it bent there: nothing was read at the tiller")
    elif abs(facts.bend) < facts.bend_error:
        said["bend"] = "It bent there as much as beside, as far as was read."
    else:
        more = "more" if facts.bend > 0 else "less"
        said["bend"] = (
            f"It bent {abs(facts.bend) * 100:.0f} % {more} there than beside,"
            f" give or take {facts.bend_error * 100:.0f} %."
        )
    if facts.flaw is None:
        unknown.append("how near a flaw lay: the bow's place in the stave was not taken over")
    else:
        said["flaw"] = (
            f"The nearest flaw, a {facts.flaw[0]}, lay {shown.length(facts.flaw[1])} away."
        )
    if facts.slope is None:
        unknown.append("how the grain ran on the back")
    else:
        said["slope"] = f"The grain ran {math.degrees(facts.slope):.0f}° to the limb."
    if facts.moisture is None:
        unknown.append("its moisture")
    else:
        said["moisture"] = f"The stave stood at {facts.moisture * 100:.0f} % moisture."
    if facts.pulls is not None:
        said["pulls"] = f"{facts.pulls} short pulls were written since wood came off."
    if facts.over is not None:
        way = "beyond" if facts.over > 0 else "within"
        said["over"] = f"It was drawn {shown.length(abs(facts.over))} {way} the limit that stood."
    if facts.unseen is not None:
        said["unseen"] = (
            f"After “{facts.unseen}” nothing was read."
            if facts.unseen
            else "No act was left without a look after it."
        )
    return said, unknown
