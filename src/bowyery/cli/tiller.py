"""``./fellwind tiller BOWFILE LOG``: what the tiller screen says after the last line of a log."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow import bowfile
from bowyery.bow.bow import SIDES, Asked, Bow
from bowyery.bow.bowfile import in_mm
from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError, UnreadableError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.strain import Uses, bend_limits, uses_of
from bowyery.tiller import words
from bowyery.tiller.advice import Plan
from bowyery.tiller.bench import BenchState, Workpiece, most_use, work_out
from bowyery.tiller.bite import strokes_for
from bowyery.tiller.estimate import NINETY, PLACES, Estimate
from bowyery.tiller.forecast import Losses
from bowyery.tiller.log import Noted, history
from bowyery.tiller.pencil import draw_at_hand, parse
from bowyery.tiller.statements import Tree
from bowyery.units.quantity import Units, World

_ACTS = {"exercise": "pulls", "balance": "take", "rescue": "ways out", "look": "look again"}
_USUAL = Losses()


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add what the command takes."""
    parser.add_argument("bowfile", help="the design, as a bow file")
    parser.add_argument("log", help="pencil lines, an entry a line; # begins a remark")
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--units", choices=["imperial", "metric"], default="imperial")
    parser.add_argument("--losses", metavar="FINISH,SHOOTING", help="per cent of the weight")
    parser.add_argument("--school", choices=["draw", "weight"], default="weight")
    parser.add_argument("--beginner", action="store_true")


def tiller(given: argparse.Namespace) -> str:
    """What to print for the command's words.

    Raises:
        BowyeryError: a bad file or line, or nothing that could be worked out.
    """
    bow = bowfile.loads(_text(given.bowfile))
    world: World = given.units
    piece, wanted = _piece(bow), _wanted(bow)
    reach = tuple(limb.root[0] + limb.length for limb in bow.limbs)
    tree = Tree(reach=(reach[0], reach[1]))
    lines = _lines(_text(given.log))
    rows: list[tuple[int, str]] = []
    noted: list[Noted] = []
    for number, line in lines:
        try:
            at_hand = draw_at_hand(one.statement for one in noted)
            said = parse(line, world, replace(tree, draw=at_hand))
        except UnreadableError as error:
            raise DescriptionError(f"{error}", f"line {number}") from None
        for statement in said:
            rows.append((number, statement.text))
            noted.append(Noted(statement, len(rows), number))
    past = history(noted, piece.roots)
    if not past.checks:
        raise DescriptionError("Nothing has been read in this log yet.", given.log)
    plan = Plan(
        wanted.weight,
        wanted.draw,
        wanted.fingers,
        "D" if given.school == "draw" else "W",
        given.beginner,
        past.braced,
        most_use(_worn(bow, wanted.draw)),
        (),
        _losses(given.losses),
        wanted.gap,
    )
    state = work_out(piece, past, plan)
    shown = Units(world)
    if given.json:
        return json.dumps(_answer(state, piece, rows, shown, tree), indent=1, ensure_ascii=False)
    return "\n".join(_sentences(state, rows, shown, tree))


def _text(path: str) -> str:
    try:
        return Path(path).read_text(encoding="utf-8")
    except OSError as error:
        raise DescriptionError(f"The file {path} cannot be read: {error.strerror}.") from None
    except UnicodeDecodeError:
        raise DescriptionError(f"The file {path} is not text.") from None


def _lines(text: str) -> list[tuple[int, str]]:
    """Lines that say something, with their numbers."""
    rows = [(k, line.split("#", 1)[0].strip()) for k, line in enumerate(text.splitlines(), 1)]
    return [(k, line) for k, line in rows if line]


def _losses(text: str | None) -> Losses:
    if text is None:
        return _USUAL
    try:
        finishing, shooting = (float(part) / 100 for part in text.split(","))
    except ValueError:
        raise DescriptionError(
            f"“{text}” is not two percentages such as 4.5,4.", "--losses"
        ) from None
    if not (0 <= finishing < 0.5 and 0 <= shooting < 0.5):
        raise DescriptionError("Losses are from nothing to half of the weight.", "--losses")
    return Losses(
        finishing,
        shooting,
        _USUAL.finishing_spread if finishing else 0.0,
        _USUAL.shooting_spread if shooting else 0.0,
    )


def _wanted(bow: Bow) -> Asked:
    """What the file says is wanted, or what its bow pulls at its draw."""
    if bow.wanted is not None:
        return bow.wanted
    if bow.draw is None:
        raise DescriptionError("Give the wanted weight and draw, or a draw.", "wanted")
    weight = float(force_curve.solve(bow, np.array([bow.draw])).drawn.weight[0])
    return Asked(weight, bow.draw)


def _piece(bow: Bow) -> Workpiece:
    wood = max((la for la in bow.upper.layers if la.thickness is None), key=lambda la: la.density)
    width = max(float(limb.width.max()) for limb in bow.limbs)
    return Workpiece(bow, grid(bow), wood.density, width)


def _worn(bow: Bow, draw: float) -> Uses:
    """How far the design is bent towards its limits."""
    curve = force_curve.solve(bow, np.array([draw]))
    return uses_of(bend_limits(bow, curve.limbs), curve.shapes)


def _band(now: Estimate) -> tuple[Floats, Floats, Floats]:
    """Factors at the places: middle, low and high end of 90 %, ``(2, PLACES)``."""
    wide = NINETY * now.spread
    return np.exp(now.field), np.exp(now.field - wide), np.exp(now.field + wide)


def _answer(
    state: BenchState, piece: Workpiece, rows: list[tuple[int, str]], shown: Units, tree: Tree
) -> dict[str, Any]:
    now, outlook, further, harder = state.now, state.outlook, state.further, state.harder
    if state.trouble:
        return _unfit(state)
    if now is None or outlook is None or further is None or harder is None or state.advice is None:
        raise DescriptionError("The readings say nothing yet.", "log")
    middle, low, high = _band(now)
    piece = state.piece or piece  # as it stands after all that was done to it
    said = words.say(state, shown, tree)
    stiffness = {}
    for k, side in enumerate(SIDES):
        at = np.linspace(0.0, float(piece.limbs.length[k, 0]), PLACES)
        stiffness[side] = {
            "at_mm": [in_mm(v) for v in at],
            "factor": [round(float(v), 5) for v in middle[k]],
            "low": [round(float(v), 5) for v in low[k]],
            "high": [round(float(v), 5) for v in high[k]],
        }
    balance = None
    if state.history.seen:
        wide = NINETY * now.ratio_spread
        balance = {
            "log_ratio": round(now.ratio, 5),
            "band": [round(now.ratio - wide, 5), round(now.ratio + wide, 5)],
        }
    return {
        "check": state.check.number if state.check else len(state.history.checks),
        "pull": {
            "no_further_mm": in_mm(further.value),
            "further_because": words.why(further, True),
            "no_harder_n": round(harder.value, 3),
            "harder_because": words.why(harder, False),
        },
        "forecast": {
            "draw_mm": in_mm(outlook.draws[-1]),
            "now_n": [round(v, 3) for v in outlook.now.ends],
            "finished_n": [round(v, 3) for v in outlook.final.ends],
        },
        "balance": balance,
        "stiffness": stiffness,
        "next": _next(state, piece),
        "doubted": _doubted(state, rows, shown, tree),
        "words": " ".join(said.sentences),
    }


def _unfit(state: BenchState) -> dict[str, Any]:
    """The answer where no bow reads as the log says."""
    return {
        "check": state.check.number if state.check else len(state.history.checks),
        "pull": {
            "no_further_mm": in_mm(state.history.last_draw),
            "further_because": "no bow reads so",
            "no_harder_n": round(state.plan.wanted_weight, 3),
            "harder_because": words.WHY_HARDER["wanted weight"],
        },
        "forecast": None,
        "balance": None,
        "stiffness": None,
        "next": _next(state, None),
        "doubted": [],
        "words": state.trouble,
    }


def _next(state: BenchState, piece: Workpiece | None) -> dict[str, Any]:
    advice = state.advice
    if advice is None or piece is None:
        return {
            "act": "look again", "removals": [], "drawn": [], "expect": None, "string": None,
            "pulls": 0, "ask": [],
        }  # fmt: skip
    removals = []
    for one in advice.removals:
        side = SIDES.index(one.limb)
        root, length = piece.roots[side], float(piece.limbs.length[side, 0])
        start = 0.0 if one.start is None else one.start
        end = length if one.end is None else one.end
        removals.append(
            {
                "limb": one.limb,
                "from_mm": in_mm(root + start),
                "to_mm": in_mm(root + end),
                "thickness_mm": in_mm(one.thickness),
                "strokes": strokes_for(state.bite, one.thickness) if state.bite else None,
                "tool": state.tool,
            }
        )
    expect = None
    if advice.check_after is not None:
        at, weight = advice.check_after
        expect = {
            "draw_mm": in_mm(at), "weight_n": round(weight, 3), "string": state.history.string.rung,
        }  # fmt: skip
    act: str = advice.act
    drawn = [
        {
            "limb": one.limb,
            "from_mm": in_mm(state.roots[one.limb] + one.start),
            "to_mm": in_mm(state.roots[one.limb] + one.end),
            "strokes": one.strokes,
            "tool": state.tool,
        }
        for one in state.strokes
    ]
    ask: list[dict[str, Any]] = [
        {"kind": "edge", "limb": r.limb, "at_mm": in_mm(state.roots[r.limb] + (r.at or 0.0))}
        for r in state.ask
        if r.limb is not None
    ]
    told = next((one.reading for one in state.sharper if one.reading.kind != "straight edge"), None)
    if told is not None:
        place = None
        if told.limb is not None and told.at is not None:
            place = in_mm(state.roots[told.limb] + told.at)
        ask.append({"kind": told.kind, "limb": told.limb, "at_mm": place})
    string = advice.string if advice.string != state.history.string.rung else None
    return {
        "act": _ACTS.get(act, act), "removals": removals, "drawn": drawn, "expect": expect,
        "string": string, "pulls": advice.pulls, "ask": ask,
    }  # fmt: skip


def _doubted(
    state: BenchState, rows: list[tuple[int, str]], shown: Units, tree: Tree
) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    if state.now is None or state.check is None:
        return found
    for key in state.older:
        line, statement = rows[key - 1]
        found.append({"line": line, "statement": statement, "why": words.OLDER})
    for k in state.now.wild:
        reading = state.check.readings[k]
        if reading.id is None:
            continue
        line, statement = rows[reading.id - 1]
        told = words.expected_words(reading, float(state.now.predicted[k]), shown, tree)
        found.append({"line": line, "statement": statement, "why": told})
    return found


def _sentences(
    state: BenchState, rows: list[tuple[int, str]], shown: Units, tree: Tree
) -> list[str]:
    """The answer for reading."""
    outlook, further, harder = state.outlook, state.further, state.harder
    if state.trouble:
        return [state.trouble]
    if outlook is None or further is None or harder is None:
        raise DescriptionError("The readings say nothing yet.", "log")
    said = words.say(state, shown, tree)
    at = tree.draw_words(float(outlook.draws[-1]), shown)
    low, middle, high = outlook.now.ends
    end = outlook.final.ends
    stop = tree.draw_words(words.readable_draw(further.value, shown), shown)
    lines = [
        (
            f"Pull no further than {stop} ({words.why(further, True)}), no harder than"
            f" {shown.weight(harder.value)} ({words.why(harder, False)})."
        ),
        (
            f"At {at} it would now pull {shown.fine_weight(middle)}"
            f" ({shown.weight(low)} to {shown.weight(high)}); finished and shot in"
            f" {shown.fine_weight(end[1])} ({shown.weight(end[0])} to {shown.weight(end[2])})."
        ),
    ]
    for one in _doubted(state, rows, shown, tree):
        lines.append(f"Line {one['line']}, “{one['statement']}”: {one['why']}.")
    return [*lines, *said.sentences]
