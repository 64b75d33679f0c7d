"""A bow's length along a bamboo slat: its nocks, its fades, and where the nodes come to lie."""

from __future__ import annotations

from django.utils.safestring import SafeString

from bowyery.making.culm import Place
from bowyery.units.quantity import Units
from fellwind.drawing import svg

WIDTH, LEFT, TALL = 960.0, 24.0, 96.0
Y, HALF = 44.0, 13.0


def node_picture(place: Place, length: float, bow: float, fade: float, shown: Units) -> SafeString:
    """Draw a slat with its nodes and the bow in it.

    Args:
        length: of the slat (m).
        bow: from nock to nock (m).
        fade: from the bow's middle to where its limbs begin to bend (m).
    """
    scale = (WIDTH - 2 * LEFT) / length
    middle = LEFT + (place.start + bow / 2) * scale

    def box(low: float, high: float, half: float, css: str) -> str:
        return svg.rect(low, Y - half, high - low, 2 * half, css)

    parts = [
        box(LEFT, WIDTH - LEFT, HALF, "lam lam-0"),
        box(middle - bow / 2 * scale, middle + bow / 2 * scale, HALF - 4, "wood"),
        box(middle - fade * scale, middle + fade * scale, HALF - 4, "lam lam-1"),
    ]
    for at in place.nodes:
        x, bad = middle + at * scale, at in place.near
        parts.append(svg.line((x, Y - HALF - 6), (x, Y + HALF + 6), "node-bad" if bad else "node"))
        css = "small strong bracken" if bad else "small"
        parts.append(svg.text((x, Y - HALF - 12), shown.length(abs(at)), css, "middle"))
    for x, said in ((-bow / 2, "lower nock"), (0.0, "middle"), (bow / 2, "upper nock")):
        parts.append(svg.text((middle + x * scale, Y + HALF + 24), said, "small muted", "middle"))
    words = ", ".join(
        f"{shown.length(abs(at))} {'above' if at > 0 else 'below'} the middle" for at in place.nodes
    )
    return svg.picture(WIDTH, TALL, parts, f"Nodes of the slat: {words or 'none'}.")
