"""``./fellwind design``: from an archer, a wood and a layout to a bow file. Loaded only when it is
asked for.
"""

from __future__ import annotations

import argparse
from dataclasses import replace
from typing import Any

from bowyery.bow import bowfile
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import FINGERS_BELOW_ARROW, UNKNOWNS, Layout, Rounding, Wanted
from bowyery.bow.section import FLAT_OVAL
from bowyery.design.figures import FIGURES, SOLVE_FOR, Figures, Stuff, figures_of
from bowyery.design.lengths import length_schools
from bowyery.design.nearest import nearest
from bowyery.design.solution import Solution
from bowyery.design.solve import solve_design
from bowyery.design.verdict import CONDEMNED, MEND, worst
from bowyery.errors import DescriptionError, DesignError, NotConvergedError
from bowyery.mechanics.shot import shoot
from bowyery.units.bounds import BOUNDS
from bowyery.units.quantity import LENGTH, METRIC, POUND_FORCE, QUANTITIES, WEIGHT, Units, read
from bowyery.wood.materials import Material, at_moisture, fibre, material

# What the command calls otherwise than the table of figures does, or asks in its own way.
CALLED = {"family": "bend", "brace_height": "brace"}
OWN = {"back", "back_root", "back_nock", "belly", "belly_root", "belly_nock", "marked_in",
       "places_from", "depth_root", "depth_nock", "moisture", "solve_for"}  # fmt: skip


def _option(name: str) -> str:
    return CALLED.get(name, name)


def arguments(two: argparse.ArgumentParser) -> None:
    """Say what the command takes: every figure of a design, and what it begins with."""
    two.add_argument(
        "--draw", required=True, help="from nocking point to pivot, such as 27in or 686mm"
    )
    two.add_argument("--weight", required=True, help="at that draw, such as 42lb or 19kg")
    two.add_argument(
        "--wood", required=True, help="as in the list of materials, such as “wych elm”"
    )
    two.add_argument("--moisture", default="9", help="per cent, 9 by default")
    two.add_argument("--layout", choices=tuple(LAYOUTS), default="parallel then taper")
    two.add_argument(
        "--fingers", choices=tuple(FINGERS_BELOW_ARROW), default="one above, two below"
    )
    two.add_argument(
        "--school", choices=("A", "B", "C"), help="of bow length; else --length or the layout's own"
    )
    two.add_argument("--length", help="from nock to nock")
    two.add_argument("--solve-for", choices=UNKNOWNS)
    two.add_argument("--depth", help="thickness where the width is solved for: one, or root..nock")
    for name, figure in FIGURES.items():
        if figure.how != "rows" and name not in OWN:
            unit = "per cent; " if figure.how == "share" else ""
            two.add_argument(
                f"--{_option(name).replace('_', '-')}",
                choices=tuple(figure.options) or None,
                help=f"{figure.label}: {unit}{figure.help}".rstrip(": ").replace("%", "%%"),
            )
    two.add_argument(
        "--back",
        action="append",
        default=[],
        help="a layer on the back, the outermost first: material=thickness or root..nock",
    )
    two.add_argument(
        "--belly", action="append", default=[], help="likewise on the belly, the outermost last"
    )
    two.add_argument("--marks", choices=("inches", "millimetres"), default="millimetres")
    two.add_argument("--name", default="")
    two.add_argument("-o", "--output", help="where to write the bow file; else it is printed")


def _layers(side: str, texts: list[str]) -> dict[str, Any]:
    """Layers of a side as figures: the outermost, and the further ones to the core."""
    rows = []
    for text in texts:
        name, _, depths = text.partition("=")
        ends = [read(part, LENGTH, METRIC) for part in depths.split("..")] if depths else []
        if not 1 <= len(ends) <= 2:
            raise DescriptionError(
                f"Write a layer as material=thickness or material=root..nock, not “{text}”.",
                f"--{side}",
            )
        rows.append({"side": side, "material": material(name).name, "root": ends[0],
                     "nock": ends[-1], "ends": None})  # fmt: skip
    if not rows:
        return {}
    outer = rows.pop(0 if side == "back" else -1)
    named = {side: outer["material"], f"{side}_root": outer["root"], f"{side}_nock": outer["nock"]}
    return named | {"lams": rows}


def _share(text: str, option: str) -> float:
    try:
        return float(text.rstrip("% ")) / 100
    except ValueError:
        raise DescriptionError(
            f"“{text}” is not a {option[2:]} in per cent, such as 9.", option
        ) from None


def _figures(given: argparse.Namespace, layout: Layout) -> Figures:
    """The layout's figures with those that were given in their place."""
    found = figures_of(layout)
    for name, figure in FIGURES.items():
        text = getattr(given, _option(name), None)
        if name in OWN or text is None:
            continue
        if figure.how == "share":
            found[name] = _share(text, f"--{name}")
        elif figure.bound:
            quantity = QUANTITIES[BOUNDS[figure.bound].quantity]
            found[name] = read(text, quantity, METRIC)
        else:
            found[name] = text
    if layout.shape.name == FLAT_OVAL and given.width and not given.tip_width:
        found["tip_width"] = found["width"]  # stock of one size
    back, belly = _layers("back", given.back), _layers("belly", given.belly)
    lams = [*back.pop("lams", []), *belly.pop("lams", [])]
    found |= back | belly | ({"lams": lams} if lams else {})
    if given.depth:
        root, _, nock = given.depth.partition("..")
        ends = (read(root, LENGTH, METRIC), read(nock or root, LENGTH, METRIC))
        found["depth_root"], found["depth_nock"] = ends
    if given.solve_for in SOLVE_FOR:
        found["solve_for"] = given.solve_for
    found["moisture"] = _share(given.moisture, "--moisture")
    found["marked_in"] = "imperial" if given.marks == "inches" else METRIC
    return Figures(**found)


def _asked(given: argparse.Namespace) -> tuple[Layout, Wanted, Material, Rounding]:
    draw, weight = read(given.draw, LENGTH, METRIC), read(given.weight, WEIGHT, METRIC)
    usual = LAYOUTS[given.layout](draw)
    length = usual.length if given.length is None else read(given.length, LENGTH, METRIC)
    figures, stuff = _figures(given, usual), Stuff(material, fibre)
    layout = figures.layout(length, weight, stuff)
    if given.solve_for == "core":
        layout = replace(layout, unknown="core")
    wanted = replace(figures.wanted(length, weight, draw, given.fingers, stuff), string=None)
    if not given.arrow:
        wanted = replace(wanted, arrow=None)
    wood = at_moisture(material(given.wood), figures.moisture)
    return layout, wanted.checked(), wood, figures.rounding(layout)


def design(given: argparse.Namespace) -> tuple[str, str]:
    """Design a bow; returns the bow file and a summary for reading."""
    layout, wanted, wood, rounding = _asked(given)
    note = ""
    if given.school:
        answers = {
            answer.school: answer for answer in length_schools(layout.checked(), wanted, wood)
        }
        chosen = answers[given.school]
        if chosen.trouble:
            raise DesignError(chosen.trouble)
        layout, note = chosen.layout, chosen.note
    try:
        found = solve_design(layout, wanted, wood, rounding, given.name)
    except DesignError as error:
        raise DesignError(f"{error}{_instead(layout, wanted, wood)}") from error
    said = _summary(found)
    bow = replace(found.bow, wanted=found.wanted.asked)
    return bowfile.dumps(bow), "\n".join([said, note] if note else [said])


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
            f"string follow {found.set.follow / bowfile.MM:.0f} mm"
            f" ({found.set.low / bowfile.MM:.0f} to {found.set.high / bowfile.MM:.0f})"
        ),
        worst(found.verdict, found.uses),
        (
            f"{float(found.curve.energy[-1]):.1f} J stored, string"
            f" {float(found.curve.braced.string_length[0]) / bowfile.MM:.0f} mm"
        ),
    ]
    if found.verdict in CONDEMNED:
        lines.append(MEND)
    elif found.usual is not None:
        lines.append(found.usual.words(Units(METRIC)))
    if found.bow.arrow is not None:
        try:
            shot = shoot(found.bow, found.wanted.draw, found.bow.arrow)
        except NotConvergedError as error:
            lines.append(str(error))
        else:
            lines.append(
                f"an arrow of {shot.arrow * 1000:.1f} g leaves at {shot.speed:.1f} m/s,"
                f" {shot.efficiency * 100:.0f} %"
            )
    return "\n".join(lines)
