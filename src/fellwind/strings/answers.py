"""What the string room tells other rooms of a bow."""

from __future__ import annotations

from dataclasses import replace

from bowyery.bow.bow import StringLine
from bowyery.units.quantity import Units
from fellwind.builds.models import Build
from fellwind.builds.ports import CARD_ROWS, STRING_ON
from fellwind.strings.services import sheets_of, standing, strings


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
