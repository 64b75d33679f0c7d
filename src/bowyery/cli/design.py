"""``./fellwind design``: from an archer, a wood and a layout to a bow file. Loaded only when it is
asked for.
"""

from __future__ import annotations

import argparse
from dataclasses import replace

from bowyery.bow import bowfile
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import (
    BEND_FAMILIES,
    BRACE_HEIGHT,
    FINGERS_BELOW_ARROW,
    INCH_ROUNDING,
    METRIC_ROUNDING,
    UNKNOWNS,
    Layout,
    StackLayer,
    Unknown,
    Wanted,
)
from bowyery.design.lengths import length_schools
from bowyery.design.nearest import nearest
from bowyery.design.solution import Solution
from bowyery.design.solve import solve_design
from bowyery.errors import DescriptionError, DesignError
from bowyery.mechanics.shot import shoot
from bowyery.units.quantity import LENGTH, MASS, METRIC, POUND_FORCE, WEIGHT, read
from bowyery.wood.materials import Material, at_moisture, material


def arguments(two: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    two.add_argument(
        "--draw", required=True, help="from nocking point to pivot, such as 27in or 686mm"
    )
    two.add_argument("--weight", required=True, help="at that draw, such as 42lb or 19kg")
    two.add_argument(
        "--wood", required=True, help="as in the list of materials, such as “wych elm”"
    )
    two.add_argument("--moisture", default="9", help="per cent, 9 by default")
    two.add_argument("--layout", choices=tuple(LAYOUTS), default="parallel then taper")
    two.add_argument("--bend", choices=tuple(BEND_FAMILIES), default="elliptical")
    two.add_argument(
        "--fingers", choices=tuple(FINGERS_BELOW_ARROW), default="one above, two below"
    )
    two.add_argument(
        "--school", choices=("A", "B", "C"), help="of bow length; else --length or the layout's own"
    )
    two.add_argument("--solve-for", choices=UNKNOWNS)
    two.add_argument("--depth", help="thickness where the width is solved for: one, or root..nock")
    for name in (
        "length",
        "width",
        "tip-width",
        "handle",
        "fade",
        "reflex",
        "grip-drop",
        "brace",
        "arrow",
    ):
        two.add_argument(f"--{name}")
    two.add_argument(
        "--back",
        action="append",
        default=[],
        help="a layer on the back: material=thickness or root..nock",
    )
    two.add_argument("--belly", action="append", default=[], help="likewise on the belly")
    two.add_argument("--marks", choices=("inches", "millimetres"), default="millimetres")
    two.add_argument("--name", default="")
    two.add_argument("-o", "--output", help="where to write the bow file; else it is printed")


def _length(text: str | None, usual: float) -> float:
    return usual if text is None else read(text, LENGTH, METRIC)


def _stack(texts: list[str], role: str) -> tuple[StackLayer, ...]:
    layers = []
    for text in texts:
        name, _, depths = text.partition("=")
        ends = [read(part, LENGTH, METRIC) for part in depths.split("..")] if depths else []
        if not 1 <= len(ends) <= 2:
            raise DescriptionError(
                f"Write a layer as material=thickness or material=root..nock, not “{text}”.",
                "--back",
            )
        layers.append(StackLayer(role, material(name), ends[0], ends[-1]))
    return tuple(layers)


def _asked(given: argparse.Namespace) -> tuple[Layout, Wanted, Material]:
    draw, weight = read(given.draw, LENGTH, METRIC), read(given.weight, WEIGHT, METRIC)
    wanted = Wanted(
        weight,
        draw,
        _length(given.brace, BRACE_HEIGHT),
        given.bend,
        given.fingers,
        arrow=read(given.arrow, MASS, METRIC) if given.arrow else None,
    ).checked()
    layout = LAYOUTS[given.layout](draw)
    layout = replace(
        layout,
        length=_length(given.length, layout.length),
        width=_length(given.width, layout.width),
        tip_width=_length(given.tip_width, layout.tip_width),
        handle=_length(given.handle, layout.handle),
        fade=_length(given.fade, layout.fade),
        reflex=_length(given.reflex, 0.0),
        grip_drop=_length(given.grip_drop, 0.0),
        back=_stack(given.back, "backing"),
        belly=_stack(given.belly, "facing"),
    )
    unknown: Unknown = given.solve_for or ("core" if layout.back or layout.belly else "thickness")
    layout = replace(layout, unknown=unknown)
    if given.depth:
        root, _, nock = given.depth.partition("..")
        layout = replace(
            layout, depth=(read(root, LENGTH, METRIC), read(nock or root, LENGTH, METRIC))
        )
    try:
        moisture = float(given.moisture) / 100
    except ValueError:
        raise DescriptionError(
            f"“{given.moisture}” is not a moisture in per cent, such as 9.", "--moisture"
        ) from None
    return layout, wanted, at_moisture(material(given.wood), moisture)


def design(given: argparse.Namespace) -> tuple[str, str]:
    """Design a bow; returns the bow file and a summary for reading."""
    layout, wanted, wood = _asked(given)
    if given.school:
        answers = {
            answer.school: answer for answer in length_schools(layout.checked(), wanted, wood)
        }
        chosen = answers[given.school]
        if chosen.trouble:
            raise DesignError(chosen.trouble)
        layout = chosen.layout
    rounding = INCH_ROUNDING if given.marks == "inches" else METRIC_ROUNDING
    try:
        found = solve_design(layout, wanted, wood, rounding, given.name)
    except DesignError as error:
        raise DesignError(f"{error}{_instead(layout, wanted, wood)}") from error
    return bowfile.dumps(found.bow), _summary(found)


def _instead(layout: Layout, wanted: Wanted, wood: Material) -> str:
    near = nearest(layout, wanted, wood)
    could = [
        f"{what} {value / unit:.0f} {name}"
        for what, value, unit, name in (
            ("at a length of", near.length, bowfile.MM, "mm"),
            ("at a weight of", near.weight, 1.0, "N"),
            ("at a draw of", near.draw, bowfile.MM, "mm"),
        )
        if value is not None
    ]
    return f" It could be built {', or '.join(could)}." if could else ""


def _summary(found: Solution) -> str:
    lines = [
        (
            f"{found.weight:.1f} N ({found.weight / POUND_FORCE:.1f} lb) at"
            f" {found.wanted.draw / bowfile.MM:.0f} mm, {found.layout.length / bowfile.MM:.0f} mm"
            " from nock to nock"
        ),
        (
            f"greatest strain {found.strain * 100:.2f} %, {found.use * 100:.0f} % of what lasts;"
            f" string follow {found.set.follow / bowfile.MM:.0f} mm"
            f" ({found.set.low / bowfile.MM:.0f} to {found.set.high / bowfile.MM:.0f})"
        ),
        (
            f"{float(found.curve.energy[-1]):.1f} J stored, string"
            f" {float(found.curve.braced.string_length[0]) / bowfile.MM:.0f} mm"
        ),
    ]
    if found.bow.arrow is not None:
        shot = shoot(found.bow, found.wanted.draw, found.bow.arrow)
        lines.append(
            f"an arrow of {shot.arrow * 1000:.1f} g leaves at {shot.speed:.1f} m/s,"
            f" {shot.efficiency * 100:.0f} %"
        )
    return "\n".join(lines)
