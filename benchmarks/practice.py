"""Fellwind's advice and the plain rule on practice staves of every trouble, in hands that err."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor

import numpy as np

from bowyery.practice.debrief import Outcome, outcome
from bowyery.practice.players import by_advice, by_rule
from bowyery.practice.session import play
from bowyery.practice.worlds import TROUBLES, Setup
from bowyery.units.quantity import POUND_FORCE

PLAIN = ("flatbow", "pyramid", "longbow", "short", "bending grip")
WOODS = ("european ash", "wych elm", "black locust", "rowan")


def one(number: int) -> tuple[str, Outcome, Outcome]:
    """One stave in both hands."""
    trouble = list(TROUBLES)[number % len(TROUBLES)]
    turn = number // len(TROUBLES)
    pattern = "sinew" if trouble == "sinew" else PLAIN[turn % len(PLAIN)]
    setup = Setup(pattern, WOODS[turn % len(WOODS)], trouble, 1000 + number)
    told, ruled = (outcome(play(setup, how(setup))) for how in (by_advice, by_rule))
    return trouble, told, ruled


def _line(name: str, rows: list[Outcome]) -> str:
    offs = np.array([np.nan if row.off is None else row.off for row in rows]) / POUND_FORCE
    whole = np.abs(offs[~np.isnan(offs)])
    near = float(np.mean([row.off is not None and row.good for row in rows]))
    return (
        f"  {name:7} good {near:4.0%}  missed {np.median(whole) if whole.size else np.nan:4.1f} lb"
        f"  even {np.mean([row.even for row in rows]):4.0%}"
        f"  broken {np.mean([row.broken for row in rows]):4.0%}"
        f"  looks {np.median([row.looks for row in rows]):3.0f}"
    )


def main(count: int) -> None:
    """Work so many practice staves and print what became of them, by trouble.

    Args:
        count: of staves.
    """
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(one, range(count)))
    print(f"{count} practice staves; missed: median of those that are whole")
    for kind in (*TROUBLES, "all"):
        rows = [row for row in found if kind in (row[0], "all")]
        if rows:
            print(f"{'all of them' if kind == 'all' else TROUBLES[kind]} ({len(rows)})")
            print(_line("advice", [row[1] for row in rows]))
            print(_line("rule", [row[2] for row in rows]))


if __name__ == "__main__":
    import sys

    main(int(sys.argv[1]) if len(sys.argv) > 1 else 52)
