"""A laminated bow's stack, lam by lam, and the form it is pressed over, on the one ruler."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from django.utils.safestring import SafeString

from bowyery.making.laminating import Form, Lam
from bowyery.units.quantity import Units
from fellwind.drawing import svg
from fellwind.drawing.ruler import WIDTH, RulerData, axis, ruler_for, track_name

TALL, REACH = 64.0, 46.0  # of the whole stack, and of the form's rise (px)


def stack_picture(
    data: RulerData,
    lams: Sequence[Sequence[Lam]],
    forms: Sequence[Form | None],
    shown: Units,
) -> SafeString:
    """Draw both limbs' lams, and the line of the form beside the limb's own.

    Args:
        lams: of upper and lower limb, from the back.
        forms: of upper and lower limb, where there is one.
    """
    ruler = ruler_for(data)
    parts = axis(ruler, data, 30, shown)
    top = 56.0
    parts += track_name(top + 26, "The stack", "back upwards")
    thick = max(float(np.sum([lam.thickness for lam in limb], axis=0).max()) for limb in lams)
    tracks = (data.upper, data.lower)
    for side, limb in enumerate(lams):
        start = float(tracks[side].from_centre[0])
        y = np.zeros(limb[0].at.size)
        for number, lam in enumerate(limb):
            xs = [ruler.x(start + float(s), side == 0) for s in lam.at]
            above = [(x, top + v) for x, v in zip(xs, y, strict=True)]
            y = y + lam.thickness / thick * TALL
            below = [(x, top + v) for x, v in zip(xs, y, strict=True)]
            css = "lam-shaped" if lam.shaped else f"lam lam-{number % 2}"
            parts.append(svg.path([*above, *below[::-1]], css, close=True))
    parts.append(
        svg.text((ruler.x(0.0), top + 38), shown.thickness(thick), "small muted", "middle")
    )
    base = 206.0
    parts += track_name(base - 22, "The form", "belly side")
    rise = [-form.belly[:, 1].min() for form in forms if form is not None]
    scale = REACH / max([1e-3, *map(float, rise)])
    scale = min(scale, 4 * ruler.scale)
    said = []
    for side, form in enumerate(forms):
        if form is None:
            continue
        ends = form.belly[:, 0], form.belly[:, 1]
        level = float(ends[1][0])
        points = [
            (ruler.x(float(x), side == 0), base + (float(v) - level) * scale)
            for x, v in zip(*ends, strict=True)
        ]
        parts.append(svg.path(points, "form-line"))
        over = form.tip_over
        if abs(over) > 5e-4:
            x, v = points[-1]
            parts.append(svg.line((x, v), (x, v + over * scale), "spring-back"))
            words = f"{shown.length(abs(over))} springs back"
            anchor = "end" if side == 0 else "start"
            parts.append(svg.text((x, v - 6), words, "tiny muted", anchor))
        said.append(f"{form.limb} form {shown.length(abs(over))} further over at its tip")
    low, high = (
        ruler.x(float(data.lower.from_centre[-1]), False),
        ruler.x(float(data.upper.from_centre[-1])),
    )
    parts.append(svg.line((low, base + 2), (high, base + 2), "rule"))
    title = f"The stack, {shown.thickness(thick)} at its thickest; {', '.join(said) or 'no form'}."
    return svg.picture(WIDTH, 216, parts, title, "ruler-picture")
