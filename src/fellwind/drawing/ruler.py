"""The one ruler: a bow on its side, lower tip left, upper limb right, back upwards, with aligned
tracks.
"""

import json
from dataclasses import dataclass, field

import numpy as np
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from bowyery.arrays import Floats
from bowyery.units.quantity import INCH, Units
from fellwind.drawing import svg

WIDTH, LEFT, RIGHT = 960.0, 116.0, 16.0
_EVERY = 2  # nodes: of 64 cells on half of the picture every other is enough for the eye


@dataclass(frozen=True)
class LimbTrack:
    """What is drawn of one limb, at places from the root outward; SI, strains without unit.

    Attributes:
        from_centre: (m).
        width, thickness: (m).
        profile: of the unstrung limb, positive to the belly (m).
        strain: greatest at the surface.
        bend: at full draw (1/m).
    """

    from_centre: Floats
    width: Floats
    thickness: Floats
    profile: Floats
    strain: Floats
    bend: Floats


@dataclass(frozen=True)
class RulerData:
    """Both limbs, the stiff middle's sizes, the strain the wood bears, and marks of advice.

    Attributes:
        handle_depth, handle_width: of the grip (m).
        take: what to take off per limb, in words, where advice says so.
        layered: the strain track shows what share of what its layers bear each place is bent to.
        spans: where on the limbs wood is to come off, from the centre (m); all of a limb without.
        back_bow: length of a back-bow and its width at the grip and at the ends (m), or None.
    """

    upper: LimbTrack
    lower: LimbTrack
    handle_depth: float
    handle_width: float
    working: float
    rupture: float
    take: dict[str, str] = field(default_factory=dict)
    former: "RulerData | None" = None
    layered: bool = False
    back_bow: tuple[float, float, float] | None = None
    spans: dict[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)

    def strained(self, value: float) -> str:
        """A strain, or a share of what the layers bear, in words."""
        return f"{value * 100:.0f} %" if self.layered else f"{value * 100:.2f} %"


class Ruler:
    """Maps distances from the centre to the picture."""

    def __init__(
        self,
        reach_lower: float,
        reach_upper: float,
        left: float = LEFT + 8,
        right: float = RIGHT + 8,
    ) -> None:
        self.scale = (WIDTH - left - right) / (reach_lower + reach_upper)
        self.centre = left + reach_lower * self.scale

    def x(self, from_centre: float, upper: bool = True) -> float:
        """Horizontal place of a distance from the centre (m)."""
        return self.centre + (from_centre if upper else -from_centre) * self.scale


def _sides(data: RulerData) -> list[tuple[LimbTrack, bool]]:
    return [(data.lower, False), (data.upper, True)]


def axis(ruler: Ruler, data: RulerData, y: float, shown: Units) -> list[str]:
    """The ruler's own marks, with figures from the centre."""
    low, high = float(data.lower.from_centre[-1]), float(data.upper.from_centre[-1])
    return axis_of(ruler, low, high, y, shown)


def axis_of(ruler: Ruler, low: float, high: float, y: float, shown: Units) -> list[str]:
    """The marks of a ruler that reaches so far from the centre (m), lower and upper."""
    step, every = (INCH, 4) if shown.imperial else (0.02, 5)
    parts = [svg.line((ruler.x(low, False), y), (ruler.x(high), y), "axis")]
    for upper, reach in ((False, low), (True, high)):
        for k in range(0 if upper else 1, int(reach / step) + 1):
            x = ruler.x(k * step, upper)
            long = k % every == 0
            parts.append(svg.line((x, y), (x, y + (9 if long else 4)), "axis"))
            if long and (k == 0 or k % (2 * every) == 0):
                label = "centre" if k == 0 else (f"{k}" if shown.imperial else f"{k * 20}")
                parts.append(svg.text((x, y + 24), label, "small muted", "middle"))
    parts.append(svg.text((ruler.x(low, False), y - 8), "lower", "small strong"))
    parts.append(svg.text((ruler.x(high), y - 8), "upper", "small strong", "end"))
    parts.append(svg.text((24, y + 24), "inches" if shown.imperial else "mm", "small muted"))
    return parts


def track_name(y: float, name: str, sub: str) -> list[str]:
    """What a track is called, at the left."""
    return [svg.text((24, y), name, "track-name"), svg.text((24, y + 16), sub, "small muted")]


def outline_of(ruler: Ruler, data: RulerData, y: float, css: str, wider: float = 1.6) -> str:
    """The bow from the back: width drawn so many times larger than length, so that it can be
    read.
    """
    wide = ruler.scale * wider
    edge: list[svg.Point] = []
    lower, upper = (
        [
            (ruler.x(s, up), w)
            for s, w in zip(one.from_centre[::_EVERY], one.width[::_EVERY], strict=True)
        ]
        for one, up in ((data.lower, False), (data.upper, True))
    )
    lower = lower[::-1]
    grip = data.handle_width
    a, b = lower[-1][0], upper[0][0]
    middle = [(a + 0.35 * (b - a), grip), (a + 0.65 * (b - a), grip)]
    stations = lower + middle + upper
    edge = [(x, y - w / 2 * wide) for x, w in stations] + [
        (x, y + w / 2 * wide) for x, w in stations[::-1]
    ]
    parts = [svg.path(edge, css, close=True)]
    if data.back_bow is not None:
        half, grip_wide, end_wide = (
            data.back_bow[0] / 2,
            data.back_bow[1] / 2 * wide,
            data.back_bow[2] / 2 * wide,
        )
        x1, x2, centre = ruler.x(half, False), ruler.x(half), ruler.x(0.0)
        points = [(x1, y - end_wide), (centre, y - grip_wide), (x2, y - end_wide)]
        parts.append(
            svg.path(points + [(x, 2 * y - h) for x, h in points[::-1]], "back-bow", close=True)
        )
    return "".join(parts)


def _take(ruler: Ruler, data: RulerData, y: float, half: float) -> list[str]:
    """Slanting pencil strokes where wood is to come off, with how much."""
    parts = []
    for side, words in data.take.items():
        track, upper = (data.upper, True) if side == "upper" else (data.lower, False)
        whole = ((float(track.from_centre[0]), float(track.from_centre[-1])),)
        for start, end in data.spans.get(side) or whole:
            x1, x2 = sorted((ruler.x(start, upper), ruler.x(end, upper)))
            parts.append(svg.rect(x1, y - half, x2 - x1, 2 * half, "take"))
            slanted = np.arange(x1 + 8, x2 - half, 16)
            parts += [
                svg.line((x, y + half), (x + half, y - half), "pencil-stroke") for x in slanted
            ]
        x1, x2 = (ruler.x(s, upper) for s in whole[0])
        parts.append(svg.text(((x1 + x2) / 2, y + half + 14), words, "small heather", "middle"))
    return parts


def _side_view(ruler: Ruler, data: RulerData, y: float, css: str, deep: float) -> str:
    """Unstrung side view, back upwards; depths and profile are drawn ``deep`` times as large as the
    length.
    """
    k = ruler.scale * deep

    def back(track: LimbTrack, upper: bool) -> list[tuple[float, float, float]]:
        return [
            (ruler.x(s, upper), y + p * k, t * k)
            for s, p, t in zip(
                *(v[::_EVERY] for v in (track.from_centre, track.profile, track.thickness)),
                strict=True,
            )
        ]

    lower, upper = back(data.lower, False)[::-1], back(data.upper, True)
    a, b = lower[-1], upper[0]
    grip = data.handle_depth * k
    middle = [(a[0] + 0.3 * (b[0] - a[0]), y, grip), (a[0] + 0.7 * (b[0] - a[0]), y, grip)]
    # without a stiff handle the limbs meet, and nothing stands out between them
    stations = lower + (middle if b[0] - a[0] > 1 else []) + upper
    edge = [(x, top) for x, top, _ in stations] + [(x, top + d) for x, top, d in stations[::-1]]
    return svg.path(edge, css, close=True)


def _curves(
    ruler: Ruler, data: RulerData, name: str, base: float, per_unit: float, css: str, fill: str = ""
) -> list[str]:
    parts = []
    for track, upper in _sides(data):
        pairs = zip(track.from_centre[::_EVERY], getattr(track, name)[::_EVERY], strict=True)
        points = [(ruler.x(s, upper), base - v * per_unit) for s, v in pairs]
        if fill:
            parts.append(
                svg.path([(points[0][0], base), *points, (points[-1][0], base)], fill, close=True)
            )
        parts.append(svg.path(points, css))
    return parts


def _places(ruler: Ruler, data: RulerData, shown: Units) -> list[dict[str, object]]:
    places = []
    for track, upper in _sides(data):
        for i in range(0, track.from_centre.size, 2):
            side = "upper" if upper else "lower"
            words = (
                f"{side}, {shown.length(float(track.from_centre[i]))} from the centre ·"
                f" {shown.length(float(track.width[i]))} wide,"
                f" {shown.thickness(float(track.thickness[i]))} thick"
                + (
                    f" · bent to {data.strained(track.strain[i])} of what its layers bear"
                    if data.layered
                    else f" · strain {track.strain[i] * 100:.2f} of {data.working * 100:.2f} %"
                )
            )
            words += f" · bends on a radius of {shown.length(float(1 / max(track.bend[i], 1e-6)))}"
            places.append(
                {"x": round(ruler.x(float(track.from_centre[i]), upper), 1), "text": words}
            )
    return sorted(places, key=lambda p: float(str(p["x"])))


def _figures(data: RulerData, shown: Units) -> SafeString:
    """The ruler's tracks at some places of each limb."""
    rows = []
    for track, upper in _sides(data):
        for i in np.unique(np.linspace(0, track.from_centre.size - 1, 9).astype(int)):
            rows.append(
                (
                    "upper" if upper else "lower",
                    shown.length(float(track.from_centre[i])),
                    shown.length(float(track.width[i])),
                    shown.thickness(float(track.thickness[i])),
                    data.strained(float(track.strain[i])),
                )
            )
    use = "Use of what lasts" if data.layered else "Strain at full draw"
    heads = ("Limb", "From the centre", "Width", "Thickness", use)
    return svg.figures("The limbs", heads, rows)


def ruler_for(data: RulerData) -> Ruler:
    """The ruler a bow lies on."""
    return Ruler(float(data.lower.from_centre[-1]), float(data.upper.from_centre[-1]))


@dataclass(frozen=True)
class Handle:
    """A figure that can be taken hold of on the ruler: its field's name, place, size (m), whether a
    width, and words.
    """

    name: str
    from_centre: float
    upper: bool
    size: float
    is_width: bool
    words: str
    locked: bool = False


def pixels_per_metre(data: RulerData, is_width: bool) -> float:
    """How many pixels a metre of width (both edges move) or thickness is on the ruler, upwards."""
    if is_width:
        return ruler_for(data).scale * 1.6 / 2
    return 46 / max(float(data.upper.thickness.max()), float(data.lower.thickness.max()))


def _handles(ruler: Ruler, data: RulerData, handles: tuple[Handle, ...]) -> list[str]:
    parts = []
    for one in handles:
        y = (96.0 if one.is_width else 176.0) - one.size * pixels_per_metre(data, one.is_width)
        css = "handle handle-locked" if one.locked else "handle"
        parts.append(
            f'<circle class="{css}" cx="{svg.n(ruler.x(one.from_centre, one.upper))}"'
            f' cy="{svg.n(y)}" r="5" tabindex="0" role="button" data-handle="{escape(one.name)}"'
            f' aria-label="{escape(one.words)}"/>'
        )
    return parts


def _drawn_outline(ruler: Ruler, data: RulerData, y: float) -> list[str]:
    parts = track_name(y - 6, "Outline", "from the back")
    if data.former:
        parts.append(outline_of(ruler, data.former, y, "former"))
    parts.append(outline_of(ruler, data, y, "wood"))
    return parts + _take(ruler, data, y, 24)


def _thickest(data: RulerData) -> float:
    return max(float(data.upper.thickness.max()), float(data.lower.thickness.max()))


def _drawn_thickness(
    ruler: Ruler, data: RulerData, y: float, ends: tuple[float, float], shown: Units
) -> list[str]:
    top = _thickest(data)
    parts = track_name(y - 22, "Thickness", f"to {shown.thickness(top)}")
    if data.former:
        parts += _curves(ruler, data.former, "thickness", y, 46 / top, "former-line")
    parts += _curves(ruler, data, "thickness", y, 46 / top, "line", "thick")
    return [*parts, svg.line((ends[0], y), (ends[1], y), "rule")]


def _drawn_unstrung(
    ruler: Ruler, data: RulerData, y: float, ends: tuple[float, float]
) -> list[str]:
    reach = max(
        float(np.abs(data.upper.profile).max()), float(np.abs(data.lower.profile).max()), 1e-9
    )
    deep = min(1.6, 24 / (reach * ruler.scale))
    parts = track_name(y - 6, "Unstrung", "back upwards")
    parts.append(_side_view(ruler, data, y - 6, "wood", deep))
    return [*parts, svg.line((ends[0], y + 34), (ends[1], y + 34), "rule")]


def _drawn_strain(ruler: Ruler, data: RulerData, y: float, ends: tuple[float, float]) -> list[str]:
    ceiling = (
        max(data.rupture, float(data.upper.strain.max()), float(data.lower.strain.max())) * 1.05
    )
    unit = 66 / ceiling
    parts = track_name(
        y - 34,
        *(("Use of layers", "of what lasts") if data.layered else ("Strain", "at full draw")),
    )
    if data.former:
        parts += _curves(ruler, data.former, "strain", y, unit, "former-line")
    parts += _curves(ruler, data, "strain", y, unit, "line-strain", "strained")
    for value, css, below, words in (
        (data.working, "limit", 13, f"lasts {data.strained(data.working)}"),
        (data.rupture, "limit-hard", -4, f"may break from {data.strained(data.rupture)}"),
    ):
        height = y - value * unit
        parts.append(svg.line((ends[0], height), (ends[1], height), css))
        parts.append(svg.text((ruler.x(0), height + below), words, "tiny bracken", "middle"))
    return [*parts, svg.line((ends[0], y), (ends[1], y), "rule")]


def ruler_picture(
    data: RulerData, shown: Units, handles: tuple[Handle, ...] = (), below: bool = False
) -> SafeString:
    """Draw the ruler with outline, thickness, unstrung profile and strain; with its readable
    places.

    Args:
        handles: figures that can be dragged on it.
        below: only thickness and strain, to stand under a picture of the rest.
    """
    ruler = ruler_for(data)
    ends = (
        ruler.x(float(data.lower.from_centre[-1]), False),
        ruler.x(float(data.upper.from_centre[-1])),
    )
    if below:
        height = 164.0
        parts = _drawn_thickness(ruler, data, 56, ends, shown)
        parts += _drawn_strain(ruler, data, 150, ends)
    else:
        height = 352.0
        parts = axis(ruler, data, 30, shown)
        parts += _drawn_outline(ruler, data, 96)
        parts += _drawn_thickness(ruler, data, 176, ends, shown)
        parts += _drawn_unstrung(ruler, data, 226, ends)
        parts += _drawn_strain(ruler, data, 340, ends)
        parts += _handles(ruler, data, handles)
    top = 4 if below else 16
    parts.append(
        f'<line class="hairline" x1="0" x2="0" y1="{top}" y2="{svg.n(height - 8)}"'
        ' visibility="hidden"/>'
    )
    peak = max(float(data.upper.strain.max()), float(data.lower.strain.max()))
    title = (
        f"The bow on the ruler: lower limb {shown.length(float(data.lower.from_centre[-1]))}, upper"
        f" limb {shown.length(float(data.upper.from_centre[-1]))} from the centre, thickest"
        f" {shown.thickness(_thickest(data))}, greatest"
        f" {'use of its layers' if data.layered else 'strain'}"
        f" {data.strained(peak)} where {data.strained(data.working)} lasts."
    )
    places = escape(json.dumps(_places(ruler, data, shown)))
    role = "group" if handles else "img"
    picture = svg.picture(WIDTH, height, parts, title, "ruler-picture", role)
    return mark_safe(  # noqa: S308
        f'<div class="ruler" data-ruler data-places="{places}" tabindex="0" role="group"'
        ' aria-label="Ruler; left and right arrows move the hairline">'
        f'<div class="ruler-scroll" tabindex="0" role="group"'
        f' aria-label="The picture">{picture}</div><output class="strip" aria-live="polite">'
        "Point at a place, or use the arrow keys, to read it.</output></div>"
        f"{_figures(data, shown)}"
    )


@dataclass(frozen=True)
class TillerData:
    """What the tiller adds to the ruler, at evenly spaced places from root to nock, ``(2, places)``
    (upper, lower).

    Attributes:
        stiffness: against what is wanted, as a share more (positive) or less.
        low, high: ends of its band (90 %).
        removal: thickness to take now (m).
        taken: thickness off so far (m).
        weak, stiff: stretches from the centre (m) by limb: which, from, to.
    """

    stiffness: np.ndarray
    low: np.ndarray
    high: np.ndarray
    removal: np.ndarray
    taken: np.ndarray
    weak: tuple[tuple[str, float, float], ...] = ()
    stiff: tuple[tuple[str, float, float], ...] = ()


def tiller_tracks(data: RulerData, more: TillerData, shown: Units) -> SafeString:
    """Stiffness with its band, what to take and what came off so far, on the same ruler."""
    ruler = ruler_for(data)
    parts = axis(ruler, data, 30, shown)
    sides = [(0, data.upper, True), (1, data.lower, False)]
    low_x, high_x = (
        ruler.x(float(data.lower.from_centre[-1]), False),
        ruler.x(float(data.upper.from_centre[-1])),
    )

    def places(track: LimbTrack) -> np.ndarray:
        return np.linspace(
            float(track.from_centre[0]), float(track.from_centre[-1]), more.stiffness.shape[1]
        )

    base, unit = 112.0, 44.0 / max(0.2, float(np.abs([more.low, more.high]).max()))
    parts += track_name(base - 14, "Stiffness", "against wanted")
    parts.append(svg.line((low_x, base), (high_x, base), "rule"))
    for share in (-0.2, 0.2):
        y = base - share * unit
        parts += [
            svg.line((low_x, y), (high_x, y), "wanted"),
            svg.text((high_x + 4, y + 4), f"{share * 100:+.0f} %", "tiny muted"),
        ]
    for k, track, up in sides:
        xs = [ruler.x(float(s), up) for s in places(track)]
        highs = [(x, base - v * unit) for x, v in zip(xs, more.high[k], strict=True)]
        lows = [(x, base - v * unit) for x, v in zip(xs, more.low[k], strict=True)]
        parts.append(svg.path(highs + lows[::-1], "band", close=True))
        parts.append(
            svg.path(
                [(x, base - v * unit) for x, v in zip(xs, more.stiffness[k], strict=True)], "line"
            )
        )
    for css, rows in (("weak", more.weak), ("stiff", more.stiff)):
        for limb, start, end in rows:
            x1, x2 = sorted((ruler.x(start, limb == "upper"), ruler.x(end, limb == "upper")))
            if css == "stiff":
                parts += [
                    svg.line((x, base + 54), (x + 8, base + 44), "pencil-stroke")
                    for x in np.arange(x1, x2 - 4, 9)
                ]
            else:
                middle = (x1 + x2) / 2
                parts += [
                    svg.line((middle - 6, base + 43), (middle + 6, base + 55), "cross"),
                    svg.line((middle - 6, base + 55), (middle + 6, base + 43), "cross"),
                ]
    for y, name, about, values, css in (
        (232.0, "Take off", "now", more.removal, "line-strain"),
        (302.0, "Came off", "so far", more.taken, "line"),
    ):
        top = float(values.max())
        parts += track_name(y - 14, name, about)
        parts.append(svg.line((low_x, y), (high_x, y), "rule"))
        if top <= 0:
            parts.append(svg.text((ruler.x(0.0), y - 8), "nothing", "small muted", "middle"))
            continue
        for k, track, up in sides:
            xs = [ruler.x(float(s), up) for s in places(track)]
            points = [(x, y - v / top * 40) for x, v in zip(xs, values[k], strict=True)]
            parts.append(svg.path([(xs[0], y), *points, (xs[-1], y)], "strained", close=True))
            parts.append(svg.path(points, css))
        parts.append(svg.text((high_x + 4, y - 36), shown.shaving(top), "tiny muted"))
    said = (
        f"Stiffness against what is wanted, from {more.stiffness.min() * 100:+.0f} to"
        f" {more.stiffness.max() * 100:+.0f} %; at most {shown.shaving(float(more.removal.max()))}"
        f" to take now, {shown.shaving(float(more.taken.max()))} off so far."
    )
    told = [
        (
            "upper" if up else "lower",
            shown.length(float(at)),
            f"{more.stiffness[k, i] * 100:+.0f} %",
            f"{more.low[k, i] * 100:+.0f} to {more.high[k, i] * 100:+.0f} %",
            shown.shaving(float(more.removal[k, i])),
            shown.shaving(float(more.taken[k, i])),
        )
        for k, track, up in sides
        for i, at in enumerate(places(track))
    ]
    heads = ("Limb", "From the centre", "Stiffness", "Between", "Take off now", "Came off")
    drawn = svg.picture(WIDTH, 320, parts, said, "ruler-picture")
    return drawn + svg.figures("Stiffness and wood off", heads, told)


def small_outline(data: RulerData) -> SafeString:
    """A bow's outline for lists."""
    ruler = Ruler(float(data.lower.from_centre[-1]), float(data.upper.from_centre[-1]), 4, 4)
    parts = [outline_of(ruler, data, 35, "wood"), *_take(ruler, data, 35, 30)]
    said = (
        f"outline of the bow; take wood from the {' and the '.join(data.take)}"
        if data.take
        else "outline of the bow"
    )
    return svg.picture(WIDTH, 70, parts, said, "outline-small")
