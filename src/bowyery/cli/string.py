"""``string BOWFILE``: plan a bowstring for the bow of a bow file."""

from __future__ import annotations

import argparse
import json
from typing import Any

import numpy as np

from bowyery.bow.bow import Bow
from bowyery.bow.bowfile import MM
from bowyery.bow.limb_grid import grid
from bowyery.cli.files import read_bow
from bowyery.errors import DescriptionError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.strings.kinds import SHORT, STRING_KINDS
from bowyery.strings.plan import StringOrder, StringPlan, plan_string
from bowyery.strings.strength import RULES
from bowyery.wood.materials import fibre, fibres

USUAL_FIBRE, BEYOND_BRACE = "linen", 0.45


def arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.add_argument("file")
    parser.add_argument("--kind", choices=list(SHORT), default="two-bundle")
    parser.add_argument("--thread", default=USUAL_FIBRE, help=", ".join(fibres()))
    parser.add_argument(
        "--strand-breaks", metavar="71,69,74", help="loads in N at which single strands broke"
    )
    parser.add_argument("--strands", type=int, help="your own number")
    parser.add_argument("--plies", type=int, help="of plied cordage, two to six")
    parser.add_argument("--turns", type=int, help="your own twists")
    parser.add_argument(
        "--weight-15in", type=float, metavar="N", help="weight as read at 15 in of draw"
    )
    parser.add_argument("--rule", choices=list(RULES), default="highest", help="which school wins")
    parser.add_argument("--json", action="store_true")


def string(given: argparse.Namespace) -> str:
    """Plan the string and return what to print.

    Raises:
        BowyeryError: a file, a figure or a bow that no string fits.
    """
    bow = read_bow(given.file)
    kind = STRING_KINDS[SHORT[given.kind]]
    if given.plies is not None and "plied" not in kind.name:
        raise DescriptionError("Only plied cordage has plies; ask for --kind plied.", "--plies")
    order = StringOrder(
        kind, fibre(given.thread), _loads(given.strand_breaks), given.rule, given.strands,
        given.plies, given.turns, fifteen=given.weight_15in,
    )  # fmt: skip
    weight, draw = _asked(bow)
    plan = plan_string(bow, weight, draw, order)
    return json.dumps(_figures(plan), indent=1) if given.json else _lines(bow, plan)


def _loads(text: str | None) -> tuple[float, ...]:
    if text is None:
        return ()
    try:
        return tuple(float(part) for part in text.split(","))
    except ValueError:
        raise DescriptionError(
            f"“{text}” is not a list of loads in N such as 71,69,74.", "--strand-breaks"
        ) from None


def _asked(bow: Bow) -> tuple[float, float]:
    """Weight and full draw: what the file asks for, or what the bow pulls at its draw (N, m)."""
    if bow.wanted is not None:
        return bow.wanted.weight, bow.wanted.draw
    if bow.back_bow is not None:
        found = backbow.solve(bow, None if bow.draw is None else np.array([bow.draw]))
        return float(found.weight[-1]), float(found.draw[-1])
    limbs = grid(bow)
    braced = statics.brace_bow(limbs, bow)
    draw = bow.draw or float(braced.least_draw[0]) + BEYOND_BRACE
    curve = force_curve.solve_grid(limbs, bow, np.array([draw]), braced)
    return float(curve.drawn.weight[-1]), draw


def _figures(plan: StringPlan) -> dict[str, Any]:
    needs: dict[str, float] = {}
    if plan.strength is not None:
        low, high = plan.strength.school_two
        needs = {
            "fifteen": plan.strength.school_one, "peak": 0.5 * (low + high),
            "statics": plan.strength.statics, "shot": plan.strength.shot,
        }  # fmt: skip
    return {
        "length_mm": round(plan.length / MM, 3),
        "brace_mm": None if plan.brace is None else round(plan.brace / MM, 3),
        "mm_brace_per_mm": round(plan.brace_per, 4),
        "strands": plan.strands,
        "cut_mm": round(plan.cut / MM, 1),
        "twists": plan.twist.turns,
        "twists_most": plan.twist.most,
        "mass_g": round(plan.mass * 1000, 3),
        "needs_n": {name: round(value, 2) for name, value in needs.items()},
        "bears_n": round(plan.safe, 2),
    }


def _lines(bow: Bow, plan: StringPlan) -> str:
    shares = " and ".join(str(share) for share in plan.shares)
    lines = [
        f"{plan.kind.name} of {plan.fibre.name} for {bow.name or 'this bow'}",
        f"{plan.length / MM:.1f} mm nock to nock braces it {plan.brace / MM:.1f} mm high; a"
        f" millimetre shorter raises that by {plan.brace_per:.2f} mm"
        if plan.brace is not None
        else f"{plan.length / MM:.1f} mm long",
        f"{plan.strands} strands ({shares}) bear {plan.safe:.0f} N, of {plan.needed:.0f} asked",
        f"cut {plan.cut / MM:.0f} mm, {plan.twist.turns} turns, over-twisted from"
        f" {plan.twist.most}; {plan.mass * 1000:.1f} g with serving and wax",
    ]
    return "\n".join(lines)
