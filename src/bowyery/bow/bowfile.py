"""The open bow file: JSON in millimetres, newtons, megapascals and degrees, with the unit in each
key's name.

Read strictly: unknown keys, wrong units, non-finite or negative sizes and unsorted stations are
refused with the path of the key and the reason. The format is described in docs/bow-file.md.
"""

from __future__ import annotations

import json
import math
from dataclasses import asdict
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Asked, BackBow, Bow, Hold, Limb, StringLine, Strung
from bowyery.bow.limb_grid import MOST_STATIONS, check_limb, curvature_from_points
from bowyery.bow.section import Layer, Shape, completed
from bowyery.errors import DescriptionError
from bowyery.units.bounds import BOUNDS

MM, MPA = 1e-3, 1e6
MOST_BYTES = 4_000_000


def _within(what: str, unit: float = 1.0) -> Any:
    """The bounds of a figure, in a unit of so many SI."""
    bound = BOUNDS[what]
    return Field(ge=bound.low / unit, le=bound.high / unit, allow_inf_nan=False)


OffLine = Annotated[float, _within("off the line", MM)]
Angle = Annotated[float, _within("angle")]
Share = Annotated[float, _within("share of a size")]
Radius = Annotated[float, _within("radius of a section", MM)]
Along = Annotated[float, _within("half of a bow", MM)]
Width = Annotated[float, _within("width at a mark", MM)]
Thickness = Annotated[float, _within("thickness at a mark", MM)]
Curvature = Annotated[float, _within("curvature")]
Modulus = Annotated[float, _within("modulus", MPA)]
Density = Annotated[float, _within("density")]
Strain = Annotated[float, _within("strain")]
LayerThickness = Annotated[float, _within("layer", MM)]
Brace = Annotated[float, _within("brace of a file", MM)]
StringLength = Annotated[float, _within("string on the tree", MM)]
StringMass = Annotated[float, _within("mass of a line", MM)]
LineStiffness = Annotated[float, _within("stiffness of a line")]
GripStiffness = Annotated[float, _within("stiffness of a grip")]
Offset = Annotated[float, _within("nocking point above the middle", MM)]
Draw = Annotated[float, _within("draw of a file", MM)]
Weight = Annotated[float, _within("draw weight")]
Arrow = Annotated[float, _within("arrow of a file", MM)]
Gap = Annotated[float, _within("difference of gaps", MM)]
Tension = Annotated[float, _within("tension of a file")]
Slack = Annotated[float, _within("slack of a cable", MM)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)


class _Root(_Strict):
    along_mm: OffLine = 0.0
    across_mm: OffLine = 0.0
    angle_deg: Angle = 0.0


class _Figures(_Strict):
    """What a shape of section needs, for the whole limb or at a station."""

    corner: Share | None = None
    round: Share | None = None
    back: Share | None = None
    belly: Share | None = None
    from_back: Share | None = None
    facet: Share | None = None
    radius_mm: Radius | None = None
    wall: Share | None = None

    def figures(self) -> dict[str, float]:
        """The figures that were given."""
        return {k: v for k in _Figures.model_fields if (v := getattr(self, k)) is not None}


class _Station(_Figures):
    at_mm: Along
    width_mm: Width
    thickness_mm: Thickness


class _Curvature(_Strict):
    at_mm: Along
    curvature_per_m: Curvature


class _Point(_Strict):
    along_mm: Along
    across_mm: OffLine


class _Limb(_Strict):
    root: _Root = _Root()
    stations: list[_Station] = Field(min_length=2, max_length=MOST_STATIONS)
    unstrung: list[_Curvature] = Field(default=[], max_length=MOST_STATIONS)
    profile: list[_Point] = Field(default=[], max_length=MOST_STATIONS)


class _Limbs(_Strict):
    upper: _Limb
    lower: _Limb


class _Section(_Figures):
    shape: str = "rectangle"


class _Layer(_Strict):
    role: Literal["facing", "backing", "core", "veneer", "belly"] = "core"
    material: str = ""
    modulus_mpa: Modulus
    density_kg_m3: Density
    thickness: Literal["rest"] | None = None
    thickness_mm: (
        LayerThickness
        | Annotated[list[LayerThickness], Field(min_length=2, max_length=MOST_STATIONS)]
        | None
    ) = None
    elastic_strain: Strain | None = None
    rupture_strain: Strain | None = None
    ductile: bool = False

    def at(self, stations: np.ndarray, where: str) -> np.ndarray | None:
        """Thickness at stations (m): one figure, or figures at equal steps from root to nock; None
        for the rest.
        """
        if (self.thickness is None) == (self.thickness_mm is None):
            raise DescriptionError("Give either thickness “rest” or thickness_mm.", where)
        if self.thickness_mm is None:
            return None
        steps = (
            np.array(
                self.thickness_mm
                if isinstance(self.thickness_mm, list)
                else [self.thickness_mm] * 2
            )
            * MM
        )
        return np.asarray(np.interp(stations, np.linspace(0.0, stations[-1], steps.size), steps))


class _Made(_Strict):
    kind: str = Field(max_length=60)
    thread: str = Field(max_length=60)
    strands: int = Field(ge=1, le=400)
    turns: int = Field(default=0, ge=0, le=400)


class _String(_Strict):
    brace_height_mm: Brace | None = None
    length_mm: StringLength | None = None
    mass_g: StringMass | None = None
    stretch_stiffness_n: LineStiffness | None = None
    nock_depth: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] | None = None
    lies_on: Literal["belly", "axis"] = "belly"
    made: _Made | None = None


class _Pivot(_Strict):
    along_mm: OffLine = 0.0
    across_mm: OffLine = 0.0


class _Hold(_Strict):
    support: Literal["hand", "rocking cradle", "clamp"] = "hand"
    string_held_by: Literal["fingers", "sliding hook"] = "fingers"
    pivot: _Pivot = _Pivot()
    nock_offset_mm: Offset = 0.0
    grip_stiffness_nm2: GripStiffness | None = None


class _BackBow(_Strict):
    limb: _Limb
    section: _Section = _Section()
    layers: list[_Layer] = Field(min_length=1, max_length=24)
    tied_at_mm: Along
    cable_tension_n: Tension
    cable_stiffness_n: LineStiffness | None = None
    cable_slack_mm: Slack = 0.0
    count: Literal[1, 2] = 1


class _Wanted(_Strict):
    weight_n: Weight
    draw_mm: Draw
    fingers: Literal["split", "three under"] = "split"
    gap_mm: Gap | None = None


FINGERS = {"split": "one above, two below", "three under": "three under"}


class _File(_Strict):
    format: Literal["fellwind-bow"]
    version: Literal[1]
    name: str = ""
    notes: str = ""
    limbs: _Limbs
    section: _Section = _Section()
    layers: list[_Layer] = Field(min_length=1, max_length=24)
    string: _String
    hold: _Hold = _Hold()
    draw_mm: Draw | None = None
    arrow_g: Arrow | None = None
    back_bow: _BackBow | None = None
    wanted: _Wanted | None = None


def schema() -> dict[str, Any]:
    """The JSON Schema of the format; docs/bow-file.schema.json holds it."""
    content = _File.model_json_schema()
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **content,
        "title": "fellwind-bow, version 1",
    }


def loads(text: str) -> Bow:
    """Read a bow file.

    Raises:
        DescriptionError: names the path of the key and the reason.
    """
    if len(text) > MOST_BYTES:
        raise DescriptionError("The file is too large to be a bow.")
    try:
        content = json.loads(text, object_pairs_hook=_each_once)
    except (ValueError, RecursionError) as error:  # figures of thousands of digits, too
        raise DescriptionError(f"This is not a JSON file: {error}.") from None
    try:
        file = _File.model_validate(content)
    except ValidationError as error:
        # a misspelt key is missing too: say first what is not known
        first = min(error.errors(), key=lambda one: one["type"] != "extra_forbidden")
        raise DescriptionError(_reason(first["type"], first["msg"]), _path(first["loc"])) from None
    limbs = [
        _limb(getattr(file.limbs, side), file.section, file.layers, f"limbs.{side}", "layers")
        for side in SIDES
    ]
    if (file.string.brace_height_mm is None) == (file.string.length_mm is None):
        raise DescriptionError("Give either brace_height_mm or length_mm.", "string")
    hold = Hold(
        file.hold.support,
        file.hold.string_held_by,
        (file.hold.pivot.along_mm * MM, file.hold.pivot.across_mm * MM),
        file.hold.nock_offset_mm * MM,
    )
    usual = StringLine()
    return Bow(
        limbs[0],
        limbs[1],
        hold,
        _scaled(file.string.brace_height_mm),
        _scaled(file.string.length_mm),
        file.name,
        file.hold.grip_stiffness_nm2,
        StringLine(
            _scaled(file.string.mass_g) or usual.mass,
            file.string.stretch_stiffness_n or usual.stretch_stiffness,
            file.string.nock_depth,
            file.string.lies_on,
        ),
        _scaled(file.arrow_g),
        _back_bow(file.back_bow),
        _scaled(file.draw_mm),
        file.notes,
        None if file.wanted is None else _asked(file.wanted),
        None if file.string.made is None else Strung(**file.string.made.model_dump()),
    )


def _each_once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """An object of the file; which of two figures of one name counts, nobody can say."""
    found = dict(pairs)
    if len(found) < len(pairs):
        names = [name for name, _ in pairs]
        twice = next(name for name in names if names.count(name) > 1)
        raise DescriptionError("This key is there twice.", twice[:60])
    return found


def _asked(wanted: _Wanted) -> Asked:
    return Asked(
        wanted.weight_n, wanted.draw_mm * MM, FINGERS[wanted.fingers], _scaled(wanted.gap_mm)
    )


def _scaled(value: float | None) -> float | None:
    """Millimetres to metres, or grams to kilograms."""
    return None if value is None else value * MM


def _back_bow(part: _BackBow | None) -> BackBow | None:
    if part is None:
        return None
    limb = _limb(part.limb, part.section, part.layers, "back_bow.limb", "back_bow.layers")
    stiffness = part.cable_stiffness_n or BackBow.cable_stiffness
    slack = part.cable_slack_mm * MM
    return BackBow(limb, part.tied_at_mm * MM, part.cable_tension_n, stiffness, slack, part.count)


def _limb(
    part: _Limb, section: _Section, described: list[_Layer], where: str, layers_where: str
) -> Limb:
    stations = np.array([[s.at_mm, s.width_mm, s.thickness_mm] for s in part.stations]).T * MM
    layers = tuple(
        Layer(
            la.role,
            la.material,
            la.modulus_mpa * MPA,
            la.density_kg_m3,
            la.at(stations[0], f"{layers_where}[{number}]"),
            la.rupture_strain,
            la.elastic_strain,
            la.ductile,
        )
        for number, la in enumerate(described)
    )
    root = (part.root.along_mm * MM, part.root.across_mm * MM, math.radians(part.root.angle_deg))
    if part.profile and part.unstrung:
        raise DescriptionError("Give either a profile or unstrung curvature.", f"{where}.profile")
    if part.profile:
        along, across = (
            np.array([[point.along_mm, point.across_mm] for point in part.profile]).T * MM
        )
        try:
            places, curvature, angle = curvature_from_points(along - along[0], across)
        except DescriptionError as error:
            raise DescriptionError(error.reason, f"{where}.{error.place}") from None
        root = (root[0], root[1], root[2] + angle)
    else:
        unstrung = [(c.at_mm * MM, c.curvature_per_m) for c in part.unstrung] or [
            (0.0, 0.0),
            (1.0, 0.0),
        ]
        if len(unstrung) == 1:
            raise DescriptionError(
                "Give the unstrung curvature at two places or more.", f"{where}.unstrung"
            )
        places, curvature = np.array(unstrung).T
    figures: dict[str, float | Floats] = {**section.figures()}
    for name in {name for station in part.stations for name in station.figures()}:
        given = [station.figures().get(name) for station in part.stations]
        if None in given:
            missing = given.index(None)
            raise DescriptionError(
                "Give this at every station or at none.", f"{where}.stations[{missing}].{name}"
            )
        figures[name] = np.array(given, float)
    shape = completed(Shape(section.shape, figures))
    limb = Limb(stations[0], stations[1], stations[2], layers, shape, root, places, curvature)
    check_limb(limb, where)
    return limb


def _path(loc: tuple[int | str, ...]) -> str:
    text = ""
    for part in loc:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else str(part)
    return text


def _reason(kind: str, message: str) -> str:
    if kind == "extra_forbidden":
        return "This key is not known; check its spelling and unit."
    if kind == "missing":
        return "This key is missing."
    return message.rstrip(".") + "."


def dumps(bow: Bow) -> str:
    """Write a bow as a bow file."""
    string: dict[str, Any] = (
        {"brace_height_mm": in_mm(bow.brace_height)}
        if bow.brace_height is not None
        else {"length_mm": in_mm(bow.string_length or 0.0)}
    )
    if bow.string.nock_depth is not None:
        string["nock_depth"] = bow.string.nock_depth
    if bow.string.lies_on != "belly":
        string["lies_on"] = bow.string.lies_on
    if bow.strung is not None:
        string["made"] = asdict(bow.strung)
    hold: dict[str, Any] = {
        "support": bow.hold.support,
        "string_held_by": bow.hold.held_by,
        "pivot": {"along_mm": in_mm(bow.hold.pivot[0]), "across_mm": in_mm(bow.hold.pivot[1])},
        "nock_offset_mm": in_mm(bow.hold.nock_offset),
    }
    if bow.grip_stiffness is not None:
        hold["grip_stiffness_nm2"] = bow.grip_stiffness
    content: dict[str, Any] = {
        "format": "fellwind-bow",
        "version": 1,
        "name": bow.name,
        "limbs": {"upper": _limb_out(bow.upper), "lower": _limb_out(bow.lower)},
        **_section_out(bow.upper),
        "string": string
        | {
            "mass_g": in_mm(bow.string.mass),
            "stretch_stiffness_n": round(bow.string.stretch_stiffness, 3),
        },
        "hold": hold,
    }
    if bow.back_bow is not None:
        back = bow.back_bow
        content["back_bow"] = {
            "limb": _limb_out(back.limb),
            **_section_out(back.limb),
            "tied_at_mm": in_mm(back.tied_at),
            "cable_tension_n": back.cable_tension,
            "cable_stiffness_n": back.cable_stiffness,
            **({"cable_slack_mm": in_mm(back.slack)} if back.slack else {}),
            **({"count": back.count} if back.count > 1 else {}),
        }
    for key, value in (("draw_mm", bow.draw), ("arrow_g", bow.arrow)):
        if value is not None:
            content[key] = in_mm(value)
    if bow.notes:
        content["notes"] = bow.notes
    if bow.wanted is not None:
        fingers = next(k for k, words in FINGERS.items() if words == bow.wanted.fingers)
        content["wanted"] = {
            "weight_n": bow.wanted.weight,
            "draw_mm": in_mm(bow.wanted.draw),
            "fingers": fingers,
            **({} if bow.wanted.gap is None else {"gap_mm": in_mm(bow.wanted.gap)}),
        }
    return json.dumps(content, indent=1, ensure_ascii=False)


def _limb_out(side: Limb) -> dict[str, Any]:
    varying = {k: v for k, v in side.shape.figures.items() if isinstance(v, np.ndarray)}
    rows = [
        {
            "at_mm": in_mm(at),
            "width_mm": in_mm(w),
            "thickness_mm": in_mm(t),
            **{k: round(float(v[i]), 9) for k, v in varying.items()},
        }
        for i, (at, w, t) in enumerate(zip(side.at, side.width, side.thickness, strict=True))
    ]
    unstrung = zip(side.unstrung_at, side.unstrung, strict=True) if np.any(side.unstrung) else ()
    return {
        "root": {
            "along_mm": in_mm(side.root[0]),
            "across_mm": in_mm(side.root[1]),
            "angle_deg": round(math.degrees(side.root[2]), 6),
        },
        "stations": rows,
        "unstrung": [
            {"at_mm": in_mm(at), "curvature_per_m": round(float(k), 9)} for at, k in unstrung
        ],
    }


def _section_out(limb: Limb) -> dict[str, Any]:
    figures = {k: v for k, v in limb.shape.figures.items() if not isinstance(v, np.ndarray)}
    return {
        "section": {"shape": limb.shape.name, **figures},
        "layers": [
            {
                "role": layer.role,
                "material": layer.material,
                "modulus_mpa": layer.modulus / MPA,
                "density_kg_m3": layer.density,
                **_depth(layer, limb),
                **({"elastic_strain": layer.elastic_strain} if layer.elastic_strain else {}),
                **({"rupture_strain": layer.rupture_strain} if layer.rupture_strain else {}),
                **({"ductile": True} if layer.ductile else {}),
            }
            for layer in limb.layers
        ],
    }


def _depth(layer: Layer, limb: Limb) -> dict[str, Any]:
    if layer.thickness is None:
        return {"thickness": "rest"}
    depth = layer.thickness + 0 * limb.at
    straight = np.interp(limb.at, limb.at[[0, -1]], depth[[0, -1]])
    if np.allclose(depth, straight, rtol=0, atol=1e-9):
        return {"thickness_mm": [in_mm(depth[0]), in_mm(depth[-1])]}
    even = np.linspace(0.0, limb.length, 201)
    return {"thickness_mm": [in_mm(t) for t in np.interp(even, limb.at, depth)]}


def in_mm(metres: float) -> float:
    """Metres as millimetres, or kilograms as grams, as they are written in files.

    Args:
        metres: a length (m).
    """
    return round(float(metres) / MM, 6)
