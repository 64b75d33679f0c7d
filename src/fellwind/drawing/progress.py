"""The string of knots: a build's progress, its waits hanging from it."""

from collections.abc import Sequence

from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from fellwind.drawing import svg

GAP, LEFT = 50.0, 24.0


def progress(
    stops: Sequence[tuple[str, str]], current: int, waits: Sequence[str] = (), done: bool = False
) -> SafeString:
    """Draw a build's progress.

    Args:
        stops: stages in order, each with the address it leads to; nothing: it leads nowhere.
        current: index of the one that is open.
        waits: what rests, with the time left, at the current stage.
    """
    width = GAP * len(stops)
    links = any(where for _, where in stops)
    y = 16.0
    parts = [svg.line((LEFT, y), (LEFT + GAP * (len(stops) - 1), y), "cord")]
    for index, (stage, where) in enumerate(stops):
        x = LEFT + index * GAP
        state = "tied" if index < current or done else ("open" if index == current else "ahead")
        dot = svg.dot((x, y), {"tied": 7.0, "open": 9.0, "ahead": 4.5}[state], f"progress-{state}")
        named = links or (state == "open")
        label = (
            svg.text(
                (x, y + 27), stage, f"small {'strong' if state == 'open' else 'muted'}", "middle"
            )
            if named
            else ""
        )
        piece = dot + label
        if where:
            piece = (
                f'<a href="{escape(where)}" aria-label="{escape(stage)}, {state}">'
                f"{svg.rect(x - GAP / 2, 0, GAP, 44, 'target')}{piece}</a>"
            )
        parts.append(piece)
    for index in range(len(waits)):
        # from the cord itself, before the next knot: over no stage's name
        x = LEFT + current * GAP + 17 + 9 * min(index, 2)
        if current == len(stops) - 1:
            x -= 52
        parts.append(svg.line((x, y), (x, y + 5), "cord"))
        parts.append(svg.rect(x - 3.5, y + 5, 7, 8, "weight"))
    said = f"Stage {current + 1} of {len(stops)}: {stops[current][0]}" + (
        f"; resting: {', '.join(waits)}" if waits else ""
    )
    if links:
        inner = "".join(parts)
        return mark_safe(  # noqa: S308
            f'<svg class="picture stages" viewBox="0 0 {svg.n(width)} 50" role="group"'
            f' aria-label="{escape(said)}" xmlns="http://www.w3.org/2000/svg">{inner}</svg>'
        )
    return svg.picture(width, 50, parts, said, "stages")
