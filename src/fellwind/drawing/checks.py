"""Checks of one bow beside one another: small pictures of each, and two of them on the ruler."""

from dataclasses import dataclass

import numpy as np
from django.utils.safestring import SafeString

from bowyery.arrays import Floats
from bowyery.units.quantity import Units
from fellwind.drawing import svg
from fellwind.drawing.ruler import WIDTH, RulerData, axis, ruler_for, track_name


def look_picture(along: Floats, across: Floats, words: str) -> SafeString:
    """A bow as it looked, small: both limbs of ``(2, n+1)`` (m), upper limb right, belly down.

    Args:
        along, across: of the limbs' nodes.
        words: what it shows, for who cannot see it.
    """
    points = [(float(x), float(y)) for x, y in zip(along[1][::-1], across[1][::-1], strict=True)]
    points += [(float(x), float(y)) for x, y in zip(along[0], across[0], strict=True)]
    reach = max(abs(x) for x, _ in points)
    top = min(y for _, y in points)
    scale = 24.0 / reach
    drawn = [(26 + x * scale, 4 + (y - top) * scale) for x, y in points]
    return svg.picture(52, 30, [svg.path(drawn, "look-line")], words, "look")


@dataclass(frozen=True)
class Checked:
    """One of two checks: its shape, and its stiffness against what is wanted now.

    Attributes:
        name: such as ``check 4``.
        along, across: of both limbs' nodes, ``(2, n+1)`` (m).
        stiffness, low, high: shares more than wanted at the places, ``(2, places)``.
    """

    name: str
    along: Floats
    across: Floats
    stiffness: Floats
    low: Floats
    high: Floats


def compare_picture(
    data: RulerData, first: Checked, second: Checked, off: Floats, shown: Units
) -> SafeString:
    """Two checks on the ruler: shapes over one another, stiffness, and what came off between.

    Args:
        data: of the bow as it stands at the second.
        first, second: the checks; the first is dashed.
        off: thickness taken between them at the places, ``(2, places)`` (m).
    """
    ruler = ruler_for(data)
    parts = axis(ruler, data, 24, shown)
    parts += track_name(78, "Shape", "second solid")
    for one, css in ((first, "former-line"), (second, "line")):
        for side in (0, 1):
            points = [
                (ruler.centre + float(x) * ruler.scale, 70 + float(y) * ruler.scale * 0.7)
                for x, y in zip(one.along[side], one.across[side], strict=True)
            ]
            parts.append(svg.path(points, css))
    deepest = max(float(one.across.max()) for one in (first, second))
    y = 70 + deepest * ruler.scale * 0.7 + 64
    top = max(0.15, *(float(np.abs([one.low, one.high]).max()) for one in (first, second)))
    unit = 48.0 / top
    parts += track_name(y - 6, "Stiffness", "over wanted")
    low, high = (
        ruler.x(float(data.lower.from_centre[-1]), False),
        ruler.x(float(data.upper.from_centre[-1])),
    )
    parts.append(svg.line((low, y), (high, y), "wanted-line"))
    sides = ((0, data.upper, True), (1, data.lower, False))
    for k, track, up in sides:
        ends = float(track.from_centre[0]), float(track.from_centre[-1])
        xs = [ruler.x(float(s), up) for s in np.linspace(*ends, off.shape[1])]
        band = [(x, y - v * unit) for x, v in zip(xs, second.high[k], strict=True)]
        band += [(x, y - v * unit) for x, v in zip(xs, second.low[k], strict=True)][::-1]
        parts.append(svg.path(band, "band", close=True))
        for one, css in ((first, "former-line"), (second, "line")):
            points = [(x, y - v * unit) for x, v in zip(xs, one.stiffness[k], strict=True)]
            parts.append(svg.path(points, css))
    for k, track, up in sides:
        middle = ruler.x(0.5 * float(track.from_centre[0] + track.from_centre[-1]), up)
        before, after = (float(one.stiffness[k, off.shape[1] // 2]) for one in (first, second))
        words = f"mid-limb {before * 100:+.0f} %, then {after * 100:+.0f} %"
        parts.append(svg.text((middle, y + 62), words, "small", "middle"))
    y += 130
    most = float(off.max())
    parts += track_name(y - 20, "Came off", "between them")
    parts.append(svg.line((low, y), (high, y), "rule"))
    if most > 0:
        for k, track, up in sides:
            ends = float(track.from_centre[0]), float(track.from_centre[-1])
            xs = [ruler.x(float(s), up) for s in np.linspace(*ends, off.shape[1])]
            points = [(x, y - v / most * 36) for x, v in zip(xs, off[k], strict=True)]
            parts.append(svg.path([(xs[0], y), *points, (xs[-1], y)], "strained", close=True))
            mid = 0.5 * (xs[0] + xs[-1])
            words = f"up to {shown.shaving(float(off[k].max()))}"
            parts.append(svg.text((mid, y + 18), words, "small muted", "middle"))
    else:
        parts.append(svg.text((ruler.centre, y - 8), "nothing", "small muted", "middle"))
    said = f"{first.name} dashed and {second.name} solid: shape, stiffness over what is wanted."
    rows = [
        (
            "upper" if up else "lower",
            shown.length(float(at)),
            f"{first.stiffness[k, i] * 100:+.0f} %",
            f"{second.stiffness[k, i] * 100:+.0f} %",
            shown.shaving(float(off[k, i])),
        )
        for k, track, up in sides
        for i, at in enumerate(
            np.linspace(float(track.from_centre[0]), float(track.from_centre[-1]), off.shape[1])
        )
    ]
    heads = ("Limb", "From the centre", first.name.capitalize(), second.name.capitalize(), "Off")
    return svg.picture(WIDTH, y + 26, parts, said, "ruler-picture") + svg.figures(
        "Both checks", heads, rows
    )


def profile_picture(
    data: RulerData,
    first: dict[str, list[tuple[float, float]]],
    last: dict[str, list[tuple[float, float]]],
    shown: Units,
) -> SafeString:
    """How the limbs lay unstrung at first and how they lie now, back upwards.

    Args:
        first, last: by limb its points, from the centre and to the belly of the handle's line (m);
            the first is dashed.
    """
    ruler = ruler_for(data)
    most = max(
        (abs(y) for rows in (first, last) for pts in rows.values() for _, y in pts), default=0
    )
    unit = 34.0 / max(most, 0.005)
    y = 84.0
    low, high = (
        ruler.x(float(data.lower.from_centre[-1]), False),
        ruler.x(float(data.upper.from_centre[-1])),
    )
    parts = axis(ruler, data, 24, shown)
    parts += track_name(y - 6, "Unstrung", "back upwards")
    parts.append(svg.line((low, y), (high, y), "rule"))
    words = []
    for rows, css, when in ((first, "former-line", "first"), (last, "line", "now")):
        for limb, points in rows.items():
            up = limb == "upper"
            track = data.upper if up else data.lower
            whole = [(float(track.from_centre[0]), 0.0), *sorted(points)]
            drawn = [(ruler.x(at, up), y + off * unit) for at, off in whole]
            parts.append(svg.path(drawn, css))
            off = whole[-1][1]
            way = "belly" if off > 0 else "back"
            words.append(f"{limb} {when} {shown.length(abs(off))} to the {way}")
            if css == "line":
                parts += [svg.dot(p, 3.5, "read-point") for p in drawn[1:]]
                anchor = "end" if up else "start"
                text = f"{shown.length(abs(off))} to the {way}"
                parts.append(svg.text((drawn[-1][0], y + 52), text, "small", anchor))
    return svg.picture(WIDTH, y + 62, parts, "; ".join(words) or "nothing read", "ruler-picture")
