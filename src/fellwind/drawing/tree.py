"""The bow on the tree: as it hangs, string pulled down, draw marks, wanted shape behind."""

from dataclasses import dataclass

import numpy as np
from django.utils.safestring import SafeString

from bowyery.arrays import Floats
from bowyery.units.quantity import INCH, Units
from fellwind.drawing import svg
from fellwind.drawing.ruler import WIDTH, Ruler


@dataclass(frozen=True)
class Bent:
    """A bent bow: neutral axis of both limbs (2, n+1) along and across, depth, nocking point, tilt;
    m and rad.
    """

    along: Floats
    across: Floats
    depth: Floats
    nock: tuple[float, float] | None
    tilt: float = 0.0
    label: str = ""


@dataclass(frozen=True)
class DrawMarks:
    """How draws are marked: what the marks have beyond the draw to the pivot, and the draw not to
    pull beyond, as marked (m).
    """

    beyond: float = 0.0
    no_further: float | None = None


def _turned(
    bent: Bent, pivot: tuple[float, float]
) -> tuple[Floats, Floats, tuple[float, float] | None]:
    """Turn the bow about the pivot until the line of draw is plumb."""
    c, s = np.cos(bent.tilt), np.sin(bent.tilt)

    def turn(x: Floats, y: Floats) -> tuple[Floats, Floats]:
        dx, dy = x - pivot[0], y - pivot[1]
        return pivot[0] + c * dx - s * dy, pivot[1] + s * dx + c * dy

    along, across = turn(bent.along, bent.across)
    nock = None
    if bent.nock is not None:
        nx, ny = turn(np.array(bent.nock[0]), np.array(bent.nock[1]))
        nock = (float(nx), float(ny))
    return along, across, nock


def tree_picture(
    solid: list[Bent],
    wanted: list[Bent],
    pivot: tuple[float, float],
    handle: tuple[float, float, float],
    on: Ruler,
    shown: Units,
    title: str,
    marks: DrawMarks | None = None,
) -> SafeString:
    """Draw bows as they hang on the tree.

    Args:
        solid: states as they are, the furthest drawn last.
        wanted: shapes to be drawn dashed.
        pivot: of the bow (m).
        handle: along of its lower and upper end, and its depth (m).
        marks: how draws are read, and how far not to pull.
    """
    parts, height = tree_parts(solid, wanted, pivot, handle, on, shown, marks)
    return svg.picture(WIDTH, height, parts, title, "tree-picture")


def tree_parts(
    solid: list[Bent],
    wanted: list[Bent],
    pivot: tuple[float, float],
    handle: tuple[float, float, float],
    on: Ruler,
    shown: Units,
    marks: DrawMarks | None = None,
    most: float | None = None,
) -> tuple[list[str], float]:
    """What :func:`tree_picture` draws, and how high it is; no higher than ``most``, where that is
    given.
    """
    states = [(_turned(b, pivot), b, "solid") for b in solid] + [
        (_turned(b, pivot), b, "wanted") for b in wanted
    ]
    reach = max(float(np.abs(a).max()) for (a, _, _), _, _ in states)
    deepest = max(
        [float(y.max()) for (_, y, _), _, _ in states]
        + [nk[1] for (_, _, nk), _, _ in states if nk]
    )
    offset, no_further = (marks.beyond, marks.no_further) if marks else (0.0, None)
    deepest = max(deepest, pivot[1] + (no_further - offset if no_further else 0.0))
    highest = min(float(y.min()) for (_, y, _), _, _ in states)
    # on the ruler's own scale and centre, so that the eye drops from the limb to its tracks
    scale = min(on.scale, (WIDTH - 150) / (2 * reach))
    step = INCH if shown.imperial else 0.02
    last = max(deepest, pivot[1] + 0.1)
    if most is not None:
        scale = min(scale, (most - 40) / (last + step - highest))
    x0, y0 = on.centre + pivot[0] * scale, 30 - highest * scale

    def at(x: float, y: float) -> svg.Point:
        return x0 + (x - pivot[0]) * scale, y0 + y * scale

    parts: list[str] = []
    k = int(np.ceil((0.08 + offset) / step))
    while k * step - offset + pivot[1] <= last + step:
        y = k * step - offset + pivot[1]
        long = k % (4 if shown.imperial else 5) == 0
        if not long and step * scale < 5:  # marks nearer than that are a blur
            k += 1
            continue
        a, half = at(pivot[0], y), 16 if long else 9
        parts.append(svg.line((a[0] - half, a[1]), (a[0] + half, a[1]), "mark"))
        if long:
            label = f"{k}" if shown.imperial else f"{k * 20}"
            parts.append(svg.text((a[0] + 22, a[1] + 5), label, "small muted"))
        k += 1
    lowered, upped, depth = handle
    for index, ((along, across, nock), bent, kind) in enumerate(states):
        faint = kind == "solid" and index < len(solid) - 1
        for limb in (0, 1):
            xs, ys = along[limb], across[limb]
            if kind == "wanted":
                parts.append(svg.path([at(x, y) for x, y in zip(xs, ys, strict=True)], "wanted"))
                continue
            dx, dy = np.gradient(xs), np.gradient(ys)
            size = np.hypot(dx, dy)
            half = bent.depth[limb] * 0.9
            nx, ny = -dy / size * half, dx / size * half
            edge = [at(x, y) for x, y in zip(xs + nx, ys + ny, strict=True)]
            edge += [at(x, y) for x, y in zip((xs - nx)[::-1], (ys - ny)[::-1], strict=True)]
            parts.append(svg.path(edge, "faint-wood" if faint else "wood", close=True))
        if kind == "solid":
            tips = [at(along[k2][-1], across[k2][-1]) for k2 in (1, 0)]
            middle = [at(*nock)] if nock else []
            parts.append(
                svg.path([tips[0], *middle, tips[1]], "faint-string" if faint else "string")
            )
            if not faint and upped - lowered > 1e-3:  # a stiff grip
                c, s = np.cos(bent.tilt), np.sin(bent.tilt)
                grip = [
                    (lowered, -0.5 * depth),
                    (upped, -0.5 * depth),
                    (upped, 0.4 * depth),
                    (lowered, 0.4 * depth),
                ]
                corners = [
                    (
                        pivot[0] + c * (gx - pivot[0]) - s * (gy * 0.6),
                        pivot[1] * 0.35 + s * (gx - pivot[0]) + c * gy * 0.6,
                    )
                    for gx, gy in grip
                ]
                parts.append(svg.path([at(*p) for p in corners], "wood grip", close=True))
    if no_further is not None:
        a = at(pivot[0], pivot[1] + no_further - offset)
        parts.append(svg.line((a[0] - 26, a[1]), (a[0] + 26, a[1]), "no-further"))
        words = f"no further yet: {shown.bare_length(no_further)}"
        parts.append(svg.text((a[0] + 50, a[1] + 5), words, "small strong bracken"))
    left, right = at(pivot[0] - reach, 0)[0], at(pivot[0] + reach, 0)[0]
    parts.append(svg.text((max(8, left - 10), 20), "lower", "small strong"))
    parts.append(svg.text((min(WIDTH - 8, right + 10), 20), "upper", "small strong", "end"))
    return parts, y0 + (last + step) * scale + 10
