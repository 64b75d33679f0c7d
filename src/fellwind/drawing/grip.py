"""The grip cut through at the arrow pass: what is cut away, what is left, where the arrow lies."""

from __future__ import annotations

from django.utils.safestring import SafeString

from bowyery.making.finishing import ArrowPass
from bowyery.units.quantity import Units
from fellwind.drawing import svg

WIDTH, HEIGHT = 420.0, 270.0
MIDDLE, TOP = 190.0, 46.0
MOST_WIDE, MOST_TALL = 190.0, 168.0


def pass_picture(cut: ArrowPass, arrow: float, shown: Units) -> SafeString:
    """Draw the section, the back up, the arrow on its right.

    Args:
        arrow: how thick the arrow is (m).
    """
    scale = min(MOST_WIDE / cut.width, MOST_TALL / cut.thick)
    wide, tall, deep = cut.width * scale, cut.thick * scale, cut.depth * scale
    left, right = MIDDLE - wide / 2, MIDDLE + wide / 2
    face, third = right - deep, right - cut.most * scale
    bad = not cut.sound
    parts = [
        svg.rect(left, TOP, wide - deep, tall, "wood"),
        svg.rect(face, TOP, deep, tall, "cut-away-bad" if bad else "cut-away"),
        svg.line((MIDDLE, TOP - 14), (MIDDLE, TOP + tall + 14), "bow-middle"),
        svg.text((MIDDLE, TOP - 20), "the string's plane", "small muted", "middle"),
        svg.line((third, TOP), (third, TOP + tall), "needed-line"),
        svg.dot((face + arrow / 2 * scale, TOP + 0.4 * tall), arrow / 2 * scale, "arrow-end"),
    ]
    y = TOP + tall + 30
    parts += [
        svg.line((face, y - 8), (right, y - 8), "work-measure"),
        svg.text(((face + right) / 2, y + 10), shown.length(cut.depth), "small strong", "middle"),
        svg.text((right + 12, TOP + 16), "back", "small muted"),
        svg.text((right + 12, TOP + tall), "belly", "small muted"),
        svg.text((right + 12, TOP + 0.4 * tall + 4), "arrow", "small"),
        svg.text((left - 8, TOP + tall / 2), shown.length(cut.width), "small muted", "end"),
    ]
    title = (
        f"The grip at the pass, {shown.length(cut.width)} wide and {shown.length(cut.thick)} thick;"
        f" the pass {shown.length(cut.depth)} deep; a third of the width: {shown.length(cut.most)}."
    )
    return svg.picture(WIDTH, HEIGHT, parts, title, "grip-picture")
