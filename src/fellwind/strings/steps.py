"""A string made step by step, each step with this string's own figures."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bowyery.strings.plan import StringPlan
from bowyery.strings.thread import round_thread
from bowyery.units.quantity import Units
from fellwind.drawing.bowstring import each_bundle
from fellwind.drawing.stringwork import step_picture
from fellwind.strings.services import Sheet

WHIP_TURNS = 12
KNIFE = "Cut away from the string's body, from hand and from face: one nicked strand ends a string."
UNDER_LOAD = (
    "First bracing: keep face and hand out of the line of string and limbs, and look at both loops"
    " before the weight comes on them."
)


@dataclass(frozen=True)
class Step:
    """A step of the making.

    Attributes:
        big: the figure of the step, and what it is.
        words: how, in a sentence or two.
    """

    key: str
    title: str
    big: tuple[str, str]
    words: str
    caution: str
    picture: str
    done: bool


def steps(made: Sheet, shown: Units) -> list[Step]:
    """All steps of a string, in order."""
    plan = made.plan
    if plan is None:
        return []
    done = {one.text for one in made.entries if one.kind == "step"}
    return [
        Step(
            key, title, big, words, caution, step_picture(drawn, first, second, title), key in done
        )
        for key, title, drawn, big, words, caution, (first, second) in _rows(plan, made, shown)
    ]


_Row = tuple[str, str, str, tuple[str, str], str, str, tuple[str, str]]


def _rows(plan: StringPlan, made: Sheet, shown: Units) -> list[_Row]:
    loop = plan.kind.is_loop
    long, posts, cut = shown.length, shown.length(plan.posts), shown.length(plan.cut)
    hard = round_thread(plan.order.serving_thread)
    rows: list[_Row] = []
    if loop:
        rows.append(
            (
                "lay out",
                "Lay out the posts",
                "lay out",
                (posts, "from post to post, outside"),
                "Wind the thread round both posts, each round as tight as the last; begin"
                " and end beside a post.",
                "",
                ("post", posts),
            )
        )
    else:
        rows.append(
            (
                "lay out",
                "Lay out and cut the bundles",
                "lay out",
                (cut, f"each of {plan.bundles} bundles"),
                f"Between the loops {posts}; the rest at each end is loop and tail.",
                "",
                ("peg", cut),
            )
        )
    rows.append(
        (
            "count",
            "Count the strands",
            "count",
            (f"{plan.strands}", each_bundle(plan)),
            "Count once more before anything is served: one too few is found at full draw.",
            "",
            (
                f"{plan.shares[0]} strands",
                f"{plan.shares[-1]} strands" if plan.bundles > 1 else "all in one loop",
            ),
        )
    )
    wax = shown.mass(plan.masses.wax)
    rows.append(
        (
            "wax",
            "Wax it",
            "wax",
            (wax, "of wax, rubbed warm"),
            "Rub until the thread shines, then draw it through a folded scrap of leather.",
            "",
            ("rub until it is warm", "strip what hangs on it"),
        )
    )
    if plan.pieces:
        lengths = ", ".join(shown.bare_length(one) for one in plan.pieces)
        unit = "in" if shown.imperial else "mm"
        rows.append(
            (
                "reinforce",
                "Reinforce the loops",
                "reinforce",
                (f"{lengths} {unit}", f"{len(plan.pieces)} pieces in each loop"),
                "Their middles lie in the loop, their ends apart, so that the string thins"
                " away evenly.",
                "",
                (f"{lengths} {unit}", "no two ends at one place"),
            )
        )
    rows += _loop_rows(plan, shown, hard)
    if any(part.thread for part in plan.parts if "throat" in part.name):
        throat = next(p for p in plan.parts if "throat" in p.name and p.thread)
        span = long(throat.end - throat.start)
        turns = math.ceil((throat.end - throat.start) / hard)
        rows.append(
            (
                "throat",
                "Wrap the throats",
                "throat",
                (span, f"{turns} turns, {long(throat.thread)} of serving thread"),
                "Wind against the twist, each turn against the last, down from the loop.",
                "",
                (span, f"{turns} turns"),
            )
        )
        rows.append(
            (
                "whip",
                "Whip and finish",
                "whip",
                (f"{WHIP_TURNS} turns", "over the thread's own bight"),
                "Lay the thread back as a bight, wind the last turns over it, pass the end"
                " through, and pull it under them.",
                "",
                (f"{WHIP_TURNS} turns", "pull the end under"),
            )
        )
        rows.append(
            (
                "cut",
                "Cut the ends away",
                "cut",
                (long(0.003), "of the end left standing"),
                "Lay the blade on the thread's end and move it away from the string.",
                KNIFE,
                ("blade away from the string", ""),
            )
        )
    turns, most = made.turns or plan.twist.turns, plan.twist.most
    rows.append(
        (
            "twist",
            "Twist it",
            "twist",
            (f"{turns} turns", f"over-twisted from {most}"),
            f"To the {made.string.direction}. One turn shortens it by"
            f" {shown.shaving(plan.twist.each)}.",
            "",
            (
                f"{turns} turns to the {made.string.direction}",
                f"takes up {shown.thickness(plan.twist.takes_up)}",
            ),
        )
    )
    if plan.kind.use == "shoots" and plan.brace is not None:
        wide = shown.thickness(plan.brace_per * plan.twist.each)
        rows.append(
            (
                "brace",
                "Brace the bow",
                "brace",
                (long(plan.brace), "brace height, to the grip"),
                f"A turn moves the brace by {wide}. Give it twenty short pulls.",
                UNDER_LOAD,
                (long(plan.brace), f"a turn moves it {wide}"),
            )
        )
    serving = plan.part("centre serving")
    if serving is not None and plan.nocking is not None and plan.square is not None:
        served = serving.end - serving.start
        turns = math.ceil(served / hard)
        above = long(plan.square - serving.start)
        rows.append(
            (
                "centre",
                "Serve the middle",
                "centre",
                (long(served), f"from {above} above the square place; {turns} turns"),
                f"On the braced bow, wound with the twist; {long(serving.thread)} of serving"
                f" thread. The middle of the bow lies {long(abs(plan.middle - plan.square))}"
                " lower.",
                "",
                (long(served), f"{long(serving.thread)} of thread"),
            )
        )
        above = long(abs(plan.square - plan.nocking))
        way = "above" if plan.square >= plan.nocking else "below"
        rows.append(
            (
                "nock",
                "Set the nocking point",
                "nock",
                (above, f"{way} square to the arrow pass"),
                f"{long(plan.nocking)} from the upper nock along the string. Tie it so that it"
                " can be turned along the serving.",
                "",
                (f"{above} {way} square", "square to the string"),
            )
        )
    return rows


def _loop_rows(plan: StringPlan, shown: Units, hard: float) -> list[_Row]:
    upper, lower = plan.loops
    opening = shown.length(max(upper, lower))
    both = f"the lower loop opens, the upper {shown.length(upper)}" if lower else "it opens"
    if plan.kind.is_loop:
        turns = math.ceil(2 * upper / hard)
        return [
            (
                "loop",
                "Serve the first loop",
                "serve the loop",
                (shown.length(2 * upper), f"served, {turns} turns; opening {shown.length(upper)}"),
                "Turn the loop to the middle of a span, serve it there, then bring it to the post.",
                "",
                (f"opens {shown.length(upper)}", f"{turns} turns"),
            ),
            (
                "close",
                "Close it, and serve the second",
                "close",
                (shown.length(2 * lower), f"served; opening {shown.length(lower)}"),
                "Bring the served part round the post and bind both sides together.",
                "",
                (f"opens {shown.length(lower)}", "both sides bound"),
            ),
        ]
    if not (upper or lower):
        return []
    rows: list[_Row] = [
        (
            "loop",
            "Lay the upper loop",
            "lay the loop",
            (shown.length(upper or lower), "opening"),
            "Twist each bundle one way and lay them round one another the other way.",
            "",
            ("each bundle one way", "together the other way"),
        ),
        (
            "close",
            "Close it and lay in the tails",
            "close",
            (shown.length(lower or upper), both),
            "Marry each tail to its bundle, and lay on until the tails run out.",
            "",
            (f"opens {opening}", "tails run out unevenly"),
        ),
    ]
    return rows
