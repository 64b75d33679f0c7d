"""A string on its own ruler, from its upper loop: as laid out, as twisted, and as it will be on the
bow. Lengths are in proportion; thickness is drawn fuller, alike everywhere.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass

from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from bowyery.strings.plan import Part, StringPlan
from bowyery.units.quantity import FINE_MASS, INCH, Units
from fellwind.drawing import svg

WIDTH, LEFT, RIGHT, HEIGHT = 960.0, 40.0, 16.0, 318.0
LAID, TWISTED, BRACED = 112.0, 174.0, 244.0
AXIS = 24.0
FULLER = 9.0  # px of a string's body
COLOURS = ("string-slate", "string-heather", "string-moss", "string-bracken", "string-gorse")


@dataclass(frozen=True)
class Look:
    """What a string looks like.

    Attributes:
        colours: class of each bundle, one after another.
    """

    colours: tuple[str, ...]
    right: bool
    turns: int


class _Ruler:
    def __init__(self, longest: float) -> None:
        self.scale = (WIDTH - LEFT - RIGHT) / longest
        self.longest = longest

    def x(self, at: float) -> float:
        return LEFT + at * self.scale

    def axis(self, shown: Units) -> list[str]:
        step, every = (INCH, 12) if shown.imperial else (0.02, 10)
        parts = [svg.line((self.x(0), AXIS), (self.x(self.longest), AXIS), "axis")]
        for k in range(int(self.longest / step + 1e-9) + 1):
            x, long = self.x(k * step), k % every == 0
            if not (long or k % (every // 6 or 1) == 0):
                continue
            parts.append(svg.line((x, AXIS), (x, AXIS + (9 if long else 4)), "axis"))
            if long:
                words = f"{k}" if shown.imperial else f"{k * 20}"
                parts.append(svg.text((x, AXIS + 24), words, "small muted", "middle"))
        unit = "in" if shown.imperial else "mm"
        parts.append(svg.text((LEFT - 8, AXIS + 4), unit, "small muted", "end"))
        return parts


def string_picture(
    plan: StringPlan, look: Look, urls: Mapping[str, str], shown: Units, chosen: str = ""
) -> SafeString:
    """Draw a string in its three states, every part of it a thing to be touched.

    Args:
        urls: where the figures of each part are changed.

    Returns:
        The picture with its hairline and strip.
    """
    beyond = plan.cut - plan.posts if not plan.kind.is_loop else 0.0
    ruler = _Ruler(max(plan.length, plan.posts) + 1e-6)

    def touch(name: str, parts: list[str], words: str) -> str:
        inner = "".join(parts)
        if name not in urls:
            return inner
        css = "string-part chosen" if name == chosen else "string-part"
        return (
            f'<a class="{css}" href="{escape(urls[name])}" hx-get="{escape(urls[name])}"'
            f' hx-target="#part" hx-swap="innerHTML" data-part="{name}"'
            f' aria-label="{escape(words)}">{inner}</a>'
        )

    parts = ruler.axis(shown)
    parts += _laid_out(plan, look, ruler, touch, shown, beyond)
    parts += _twisted(plan, look, ruler, shown)
    parts += _braced(plan, look, ruler, touch, shown)
    parts.append(
        f'<line class="hairline" x1="0" x2="0" y1="12" y2="{svg.n(HEIGHT - 20)}"'
        ' visibility="hidden"/>'
    )
    title = (
        f"{plan.kind.name} of {plan.strands} strands, {shown.length(plan.posts)} as laid out,"
        f" {shown.length(plan.length)} on the bow, {plan.twist.turns} turns."
    )
    picture = svg.picture(WIDTH, HEIGHT, parts, title, "string-picture", "group")
    places = escape(json.dumps(_places(plan, look, ruler, shown)))
    return mark_safe(  # noqa: S308
        f'<div class="ruler" data-ruler data-places="{places}" tabindex="0" role="group"'
        ' aria-label="The string on its ruler; left and right arrows move the hairline">'
        '<div class="ruler-scroll" tabindex="0" role="group" aria-label="The picture">'
        f'{picture}</div><output class="strip" aria-live="polite">'
        "Point at a place, or use the arrow keys, to read it. Press a part to change it."
        "</output></div>"
    )


def _name(y: float, words: str, more: str) -> list[str]:
    return [
        f'<text class="strong" x="0" y="{svg.n(y)}">{escape(words)}'
        f'<tspan class="small muted" dx="10">{escape(more)}</tspan></text>'
    ]


def _laid_out(plan, look, ruler, touch, shown, beyond) -> list[str]:  # type: ignore[no-untyped-def]
    on = "posts" if plan.kind.is_loop else "pegs"
    a, b = ruler.x(0.0), ruler.x(plan.posts)
    if plan.kind.is_loop:
        told = f"{shown.length(plan.posts)} apart, {plan.strands} strands, all one thread"
    else:
        told = (
            f"{each_bundle(plan)}, {shown.length(plan.posts)} between loops,"
            f" {shown.length(plan.cut)} over all"
        )
    parts = _name(LAID - 44, f"Laid out on the {on}", told)
    rows = max(1, plan.bundles)
    apart = 21.0 / max(rows - 1, 1)
    lines = []
    for k in range(rows):
        css = look.colours[k % len(look.colours)]
        for thread in range(min(4, plan.shares[min(k, len(plan.shares) - 1)])):
            y = LAID - 6 + (k - (rows - 1) / 2) * apart + (thread - 1.5) * 2.6
            out = 0.0 if plan.kind.is_loop else 14.0
            lines.append(svg.line((a - out, y), (b + out, y), f"strand {css}"))
    parts.append(touch("body", lines, f"Strands: {each_bundle(plan)}"))
    if plan.pieces:
        gold = []
        for k, long in enumerate(plan.pieces):
            y = LAID - 34 + k * 4.5
            reach = long / 2 * ruler.scale
            gold += [
                svg.line((a, y), (a + reach, y), "reinforcing"),
                svg.line((b - reach, y), (b, y), "reinforcing"),
            ]
        words = ", ".join(shown.bare_length(one) for one in plan.pieces)
        unit = "in" if shown.imperial else "mm"
        gold.append(
            svg.text(
                (a + plan.pieces[0] / 2 * ruler.scale + 10, LAID - 25),
                f"reinforcing {words} {unit}, ends staggered",
                "small gorse-words",
            )
        )
        parts.append(touch("pieces", gold, f"Reinforcing pieces: {words} {unit}"))
    posts = [svg.dot((a, LAID - 6), 8, "post"), svg.dot((b, LAID - 6), 8, "post")]
    parts.append(touch("length", posts, f"{on}: {shown.length(plan.posts)} apart"))
    return parts


def each_bundle(plan: StringPlan) -> str:
    """How its strands lie together, in words."""
    if plan.bundles == 1:
        return f"{plan.strands} strands"
    counts = sorted(set(plan.shares), reverse=True)
    each = " and ".join(str(one) for one in counts)
    kind = "plies" if "plied" in plan.kind.name else "bundles"
    return f"{plan.bundles} {kind} of {each} strand{'' if counts == [1] else 's'}"


def _hatched(a: float, b: float, y: float, look: Look, half: float, every: float) -> list[str]:
    """A twisted stretch: its body, and the slant of its bundles in their colours."""
    parts = [svg.rect(a, y - half, b - a, 2 * half, f"string-cord {look.colours[0]}")]
    lean = half * (0.9 if look.right else -0.9)
    x, k = a + every / 2, 1
    while x < b - 1:
        css = look.colours[k % len(look.colours)] if len(set(look.colours)) > 1 else "string-light"
        parts.append(svg.line((x - lean, y + half), (x + lean, y - half), f"slant {css}"))
        x, k = x + every, k + 1
    return parts


def _slants(look: Look, wide: float) -> float:
    """Px between slants: as many as there are turns, as long as the eye can tell them apart."""
    return max(4.0, wide / max(2 * look.turns, 2))


def _twisted(plan: StringPlan, look: Look, ruler: _Ruler, shown: Units) -> list[str]:
    long = plan.posts - plan.twist.takes_up
    told = (
        f"{look.turns} turns, {shown.length(long)}: the twist took up"
        f" {shown.length(plan.twist.takes_up)}"
    )
    a, b = ruler.x(0.0), ruler.x(long)
    y = TWISTED
    return [
        *_name(y - 20, "Twisted", told),
        *_hatched(a, b, y, look, FULLER / 2, _slants(look, b - a)),
    ]


def _loop(x: float, inner: float, y: float, look: Look) -> list[str]:
    wide = abs(inner - x)
    middle = (x + inner) / 2
    return [
        f'<ellipse class="loop {look.colours[0]}" cx="{svg.n(middle)}" cy="{svg.n(y)}"'
        f' rx="{svg.n(max(wide / 2, 5))}" ry="9"/>'
    ]


def _braced(plan, look, ruler, touch, shown) -> list[str]:  # type: ignore[no-untyped-def]
    y = BRACED
    shoots = plan.kind.use == "shoots"
    height = f", brace {shown.length(plan.brace)}" if plan.brace else ""
    told = (
        f"{shown.length(plan.length)} nock to nock{height}" if shoots else shown.length(plan.length)
    )
    parts = _name(y - 36, "As it will be on the bow", told)
    body = plan.part("body")
    low, high = (body.start, body.end) if body else (0.0, plan.length)
    a, b = ruler.x(low), ruler.x(high)
    cord = _hatched(a, b, y, look, FULLER / 2, _slants(look, b - a))
    parts.append(touch("twist", cord, f"Twist: {look.turns} turns"))
    for end in ("upper", "lower"):
        parts += _end(plan, look, ruler, touch, shown, end)
    serving = plan.part("centre serving")
    if serving is not None:
        parts += _centre(plan, serving, ruler, touch, shown)
    silencers, at = plan.order.silencers
    if silencers:
        for place in (at, plan.length - at):
            x = ruler.x(place)
            tuft = [svg.line((x + k, y - 8), (x - k, y + 8), "tuft") for k in (-5, -2, 2, 5)]
            parts.append(touch("silencers", tuft, f"Silencer, {shown.mass(silencers / 2)}"))
    return parts


def _end(plan, look, ruler, touch, shown, end: str) -> list[str]:  # type: ignore[no-untyped-def]
    y, upper = BRACED, end == "upper"
    k = 0 if upper else 1
    kind = plan.kind.ends[k]
    loop, throat = plan.part(f"{end} loop"), plan.part(f"{end} throat")
    anchor = "start" if upper else "end"
    x = ruler.x(0.0 if upper else plan.length)
    parts = []
    if loop is None:
        words = "hitched" if kind == "hitch" else "tied"
        knot = [
            svg.dot((x, y), 6, "knot-at-end"),
            svg.text((x, y + 34), words, "small muted", anchor),
        ]
        return [touch("loops", knot, f"The {end} end is {words}")]
    opening = shown.length(plan.loops[k])
    word = "pocket" if kind == "pocket" else "loop"
    ends = (loop.start, loop.end) if upper else (loop.end, loop.start)
    drawn = [*_loop(ruler.x(ends[0]), ruler.x(ends[1]), y, look)]
    drawn.append(svg.text((x, y + 34), f"{end} {word} {opening}", "small muted", anchor))
    parts.append(touch("loops", drawn, f"{end} {word}, {opening} open"))
    if throat is not None:
        a, b = ruler.x(throat.start), ruler.x(throat.end)
        long = shown.length(throat.end - throat.start)
        wrap = [
            svg.rect(min(a, b), y - 7, abs(b - a), 14, "wrap"),
            svg.text((x, y + 52), f"served {long}", "small muted", anchor),
        ]
        parts.append(touch("throats", wrap, f"{end} throat, served {long}"))
    return parts


def _centre(plan, serving: Part, ruler, touch, shown) -> list[str]:  # type: ignore[no-untyped-def]
    y = BRACED
    a, b = ruler.x(serving.start), ruler.x(serving.end)
    long = shown.length(serving.end - serving.start)
    aside = shown.length(abs(plan.middle - plan.square))
    wrap = [
        svg.rect(a, y - 8, b - a, 16, "wrap"),
        svg.text((b + 10, y + 34), f"served {long} where the arrow sits", "small muted"),
        svg.text((b + 10, y + 52), f"the bow's middle is {aside} lower", "small muted"),
    ]
    parts = [touch("centre", wrap, f"Centre serving, {long}")]
    x = ruler.x(plan.middle)
    parts.append(svg.line((x, y - 16), (x, y + 18), "bow-middle"))
    above = plan.square - plan.nocking
    words = f"nocking point {shown.length(abs(above))}"
    words += " above square" if above >= 0 else " below square"
    at = ruler.x(plan.nocking)
    point = [
        svg.line((at, y - 20), (at, y - 6), "nock-line"),
        svg.dot((at, y), 5, "nock-point"),
        svg.text((at, y - 24), words, "small gorse-words", "middle"),
    ]
    parts.append(touch("nock", point, words))
    return parts


def _places(plan: StringPlan, look: Look, ruler: _Ruler, shown: Units) -> list[dict[str, object]]:
    """What the strip says at places an inch or two centimetres apart."""
    step = INCH if shown.imperial else 0.02
    found = []
    by_width = sorted((one for one in plan.parts if one.name != "body"), key=lambda p: p.start)
    line = plan.strands * plan.fibre.line_mass
    for k in range(int(plan.length / step + 1e-9) + 1):
        at = k * step
        here = next((one for one in by_width if one.start <= at <= one.end), plan.part("body"))
        if here is None:
            continue
        each = here.mass / max(here.end - here.start, 1e-6) if here.name != "body" else line
        each *= step
        side = "right" if look.right else "left"
        words = [
            f"{shown.length(at)} from the upper nock",
            here.name,
            f"{plan.strands} strands, twist {side}",
            f"{shown.shaving(here.thick)} thick",
            f"{FINE_MASS.write(each, shown)} {'an inch' if shown.imperial else 'in 20 mm'}",
            f"bears {shown.weight(plan.safe)}",
        ]
        found.append({"x": round(ruler.x(at), 1), "text": " · ".join(words)})
    return found


def bars_picture(
    rows: list[tuple[str, float, float, str]], bears: float, needed: float, shown: Units
) -> SafeString:
    """What a string must bear by each school, and what it bears.

    Args:
        rows: words, least and greatest (N), and a class of each school.
        bears: what it bears (N).
        needed: what it was planned for (N).
    """
    wide, left, tall = 470.0, 232.0, 30.0
    most = max([bears, needed, *(high for _, _, high, _ in rows)]) * 1.02
    scale = (wide - left - 84) / most
    parts = []

    def beside(value: float) -> float:
        """Where a figure stands beside its bar, clear of the line of what is needed."""
        x, line = left + value * scale + 6, left + needed * scale
        return line + 6 if line - 70 < x < line + 6 else x

    for k, (words, low, high, css) in enumerate(rows):
        y = 8 + k * tall
        parts.append(svg.text((left - 8, y + 15), words, f"small {css}", "end"))
        parts.append(svg.rect(left, y, low * scale, 20, "needs"))
        if high > low:
            parts.append(svg.rect(left + low * scale, y, (high - low) * scale, 20, "needs-more"))
        told = shown.bare_weight(low) if high > low else shown.weight(low)
        told = f"{told} to {shown.weight(high)}" if high > low else told
        parts.append(svg.text((beside(high), y + 15), told, "small"))
    y = 8 + len(rows) * tall
    good = "bears" if bears >= needed * (1 - 1e-9) else "bears-not"
    parts.append(svg.text((left - 8, y + 15), "this string bears", "small strong", "end"))
    parts.append(svg.rect(left, y, bears * scale, 20, good))
    parts.append(svg.text((beside(bears), y + 15), shown.weight(bears), "small strong"))
    x = left + needed * scale
    parts.append(svg.line((x, 2), (x, y + 26), "needed-line"))
    title = f"Needed {shown.weight(needed)}, borne {shown.weight(bears)}. " + "; ".join(
        f"{words} {shown.weight(high)}" for words, _, high, _ in rows
    )
    return svg.picture(wide, y + 32, parts, title, "bars-picture")
