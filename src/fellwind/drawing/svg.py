"""Small helpers that write SVG text. Colours and weights are classes in the style sheet, never
attributes.
"""

from collections.abc import Iterable, Sequence

from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

Point = tuple[float, float]


def n(value: float) -> str:
    """A coordinate with a tenth of a pixel."""
    return f"{value:.1f}".removesuffix(".0")


def path(points: Iterable[Point], css: str, close: bool = False) -> str:
    """A polyline or a closed outline."""
    text = "L".join(f"{n(x)} {n(y)}" for x, y in points)
    return f'<path class="{css}" d="M{text}{"Z" if close else ""}"/>'


def line(a: Point, b: Point, css: str) -> str:
    """A straight line."""
    return f'<line class="{css}" x1="{n(a[0])}" y1="{n(a[1])}" x2="{n(b[0])}" y2="{n(b[1])}"/>'


def text(at: Point, words: str, css: str = "", anchor: str = "start") -> str:
    """Words at a place."""
    return (
        f'<text class="{css}" x="{n(at[0])}" y="{n(at[1])}"'
        f' text-anchor="{anchor}">{escape(words)}</text>'
    )


def dot(at: Point, radius: float, css: str) -> str:
    """A round mark."""
    return f'<circle class="{css}" cx="{n(at[0])}" cy="{n(at[1])}" r="{n(radius)}"/>'


def rect(x: float, y: float, width: float, height: float, css: str) -> str:
    """A box."""
    return f'<rect class="{css}" x="{n(x)}" y="{n(y)}" width="{n(width)}" height="{n(height)}"/>'


def figures(caption: str, heads: Sequence[str], rows: Iterable[Sequence[str]]) -> SafeString:
    """What a chart shows as a table, folded away behind it: for who cannot see it, or wants a
    figure.
    """
    head = "".join(f'<th scope="col">{escape(one)}</th>' for one in heads)
    body = "".join(
        "<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in row) + "</tr>" for row in rows
    )
    return mark_safe(  # noqa: S308
        f'<details class="in-figures"><summary>{escape(caption)}, in figures</summary>'
        f'<div class="scroll" tabindex="0" role="region" aria-label="{escape(caption)}">'
        f'<table class="rows">'
        f"<thead><tr>{head}</tr></thead><tbody>{body}</tbody></table></div></details>"
    )


def picture(
    width: float, height: float, parts: Sequence[str], title: str, css: str = "", role: str = "img"
) -> SafeString:
    """A whole picture with its text alternative; a ``group`` where parts of it can be used. Every
    part is written by this module or escaped.
    """
    return mark_safe(  # noqa: S308
        f'<svg class="picture {css}" viewBox="0 0 {n(width)} {n(height)}" role="{role}"'
        f' aria-label="{escape(title)}" xmlns="http://www.w3.org/2000/svg">{"".join(parts)}</svg>'
    )
