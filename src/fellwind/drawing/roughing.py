"""What is still to come off a blank, as a strip under its outline on the one ruler."""

from __future__ import annotations

from collections.abc import Sequence

from django.utils.safestring import SafeString

from bowyery.making.roughing import NEARLY, Still
from bowyery.units.quantity import Units
from fellwind.drawing import svg
from fellwind.drawing.ruler import WIDTH, RulerData, axis, outline_of, ruler_for, track_name

TALL = 46.0  # of the longest bar (px)
LEAST_SCALE = 0.0008  # the longest bar stands for no less than this (m)


def roughing_picture(data: RulerData, rows: Sequence[Still], shown: Units) -> SafeString:
    """The outline, and at each place what is still to come off, unread ones dotted."""
    ruler = ruler_for(data)
    parts = axis(ruler, data, 30, shown)
    parts += track_name(88, "Outline", "from the back")
    parts.append(outline_of(ruler, data, 92, "wood"))
    base = 196.0
    parts += track_name(base - 22, "Still to", "come off")
    low = ruler.x(float(data.lower.from_centre[-1]), False)
    high = ruler.x(float(data.upper.from_centre[-1]))
    parts.append(svg.line((low, base), (high, base), "rule"))
    top = max([LEAST_SCALE, *(abs(r.off) for r in rows if r.off is not None)])
    told = []
    for row in rows:
        x = ruler.x(row.at, row.limb == "upper")
        off = row.off
        if off is None:
            parts.append(svg.dot((x, base), 2.5, "unknown"))
            said = "not read"
        elif abs(off) <= NEARLY:
            parts.append(svg.dot((x, base), 4, "there"))
            said = "as it shall be"
        else:
            tall = off / top * TALL
            css = "bar-off" if off > 0 else "bar-thin"
            parts.append(svg.rect(x - 5, min(base, base - tall), 10, abs(tall), css))
            said = shown.shaving(abs(off))
            bare = said.split()[0]
            above = base - tall - 5 if off > 0 else base - tall + 14
            parts.append(svg.text((x, above), bare, "tiny muted", "middle"))
            said = f"{said} to come off" if off > 0 else f"{said} too thin"
        told.append(
            (
                row.limb,
                shown.length(row.at),
                shown.thickness(row.goal),
                "–" if row.read is None else shown.thickness(row.read),
                said,
            )
        )
    read = sum(r.off is not None for r in rows)
    title = f"What is still to come off at {read} of {len(rows)} places that were read."
    heads = ("Limb", "From the centre", "Shall be", "Was read", "Still")
    picture = svg.picture(WIDTH, 258, parts, title, "ruler-picture")
    return SafeString(picture + svg.figures("What is still to come off", heads, told))


def broken_picture(data: RulerData, side: int, place: float, shown: Units) -> SafeString:
    """The bow on the ruler with the place where it broke.

    Args:
        side: 0 upper, 1 lower.
        place: from the bow's centre (m).
    """
    ruler = ruler_for(data)
    parts = axis(ruler, data, 30, shown)
    parts += track_name(92, "Outline", "from the back")
    parts.append(outline_of(ruler, data, 92, "wood"))
    x = ruler.x(place, side == 0)
    crack = [(x - 3, 66), (x + 4, 80), (x - 4, 92), (x + 4, 104), (x - 3, 118)]
    parts.append(svg.path(crack, "crack"))
    said = f"{shown.length(place)} from the centre, {'upper' if side == 0 else 'lower'} limb"
    parts.append(svg.text((x, 136), said, "small strong", "middle"))
    return svg.picture(WIDTH, 150, parts, f"It broke {said}.", "ruler-picture")
