"""The string of knots: a build's progress, its waits hanging from it."""

from collections.abc import Sequence

from django.urls import reverse
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from fellwind.drawing import svg

WIDTH, GAP, LEFT = 400.0, 50.0, 24.0


def knots(
    stages: Sequence[str], current: int, number: int, waits: Sequence[str] = (), links: bool = False, done: bool = False
) -> SafeString:
    """Draw the string of knots.

    Args:
        stages: their names in order.
        current: index of the open knot.
        number: of the build.
        waits: what rests, with the time left, at the current knot.
        links: make each knot a link and name all of them.
        done: the whole string is tied.
    """
    y = 16.0
    parts = [svg.line((LEFT, y), (LEFT + GAP * (len(stages) - 1), y), "cord")]
    for index, stage in enumerate(stages):
        x = LEFT + index * GAP
        state = "tied" if index < current or done else ("open" if index == current else "ahead")
        knot = svg.dot((x, y), {"tied": 7.0, "open": 9.0, "ahead": 4.5}[state], f"knot-{state}")
        named = links or (state == "open")
        label = svg.text((x, y + 27), stage, f"small {'strong' if state == 'open' else 'muted'}", "middle") if named else ""
        piece = knot + label
        if links:
            where = escape(reverse("builds:stage", args=[number, stage]))
            piece = (
                f'<a href="{where}" aria-label="{escape(stage)}, {state}">'
                f"{svg.rect(x - GAP / 2, 0, GAP, 44, 'target')}{piece}</a>"
            )
        parts.append(piece)
    for index in range(len(waits)):
        x = LEFT + current * GAP
        parts.append(svg.line((x + 7, y + 6), (x + 30, y + 22 + 12 * index), "cord"))
        parts.append(svg.rect(x + 23, y + 20 + 12 * index, 15, 10, "weight"))
    said = f"Stage {current + 1} of {len(stages)}: {stages[current]}" + (f"; resting: {', '.join(waits)}" if waits else "")
    if links:
        inner = "".join(parts)
        return mark_safe(  # noqa: S308
            f'<svg class="picture knots" viewBox="0 0 {svg.n(WIDTH)} 50" role="group" aria-label="{escape(said)}"'
            f' xmlns="http://www.w3.org/2000/svg">{inner}</svg>'
        )
    return svg.picture(WIDTH, 50, parts, said, "knots")
