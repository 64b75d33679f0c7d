"""The open bow file: JSON in millimetres, newtons, megapascals and degrees, with the unit in each key's name.

Read strictly: unknown keys, wrong units, non-finite or negative sizes and unsorted stations are refused with
the path of the key and the reason. The format is described in docs/bow-file.md.
"""

from __future__ import annotations

import json
import math
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from bowyery.bow import MOST_STATIONS, Bow, Hold, Limb, check_limb
from bowyery.errors import DescriptionError
from bowyery.section import Layer, Shape, completed
from bowyery.statics import Curve

MM, MPA = 1e-3, 1e6
MOST_BYTES = 4_000_000

Finite = Annotated[float, Field(allow_inf_nan=False)]
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
NotNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)


class _Root(_Strict):
    along_mm: Finite = 0.0
    across_mm: Finite = 0.0
    angle_deg: Finite = 0.0


class _Station(_Strict):
    at_mm: NotNegative
    width_mm: Positive
    thickness_mm: Positive


class _Curvature(_Strict):
    at_mm: NotNegative
    curvature_per_m: Finite


class _Limb(_Strict):
    root: _Root = _Root()
    stations: list[_Station] = Field(min_length=2, max_length=MOST_STATIONS)
    unstrung: list[_Curvature] = Field(default=[], max_length=MOST_STATIONS)


class _Limbs(_Strict):
    upper: _Limb
    lower: _Limb


class _Section(_Strict):
    shape: str = "rectangle"
    corner: Positive | None = None
    round: Positive | None = None
    back: Positive | None = None
    belly: Positive | None = None
    from_back: Positive | None = None
    facet: Positive | None = None
    radius_mm: Positive | None = None
    wall: Positive | None = None

    def figures(self) -> dict[str, float]:
        """The figures that were given."""
        return {k: v for k, v in self.model_dump(exclude={"shape"}).items() if v is not None}


class _Layer(_Strict):
    role: Literal["facing", "backing", "core", "veneer", "belly"] = "core"
    material: str = ""
    modulus_mpa: Positive
    density_kg_m3: Positive
    thickness: Literal["rest"] | None = None
    thickness_mm: NotNegative | Annotated[list[NotNegative], Field(min_length=2, max_length=2)] | None = None

    def at(self, stations: np.ndarray, where: str) -> np.ndarray | None:
        """Thickness at stations (m): one figure, or from root to nock; None for the rest of the depth."""
        if (self.thickness is None) == (self.thickness_mm is None):
            raise DescriptionError("Give either thickness “rest” or thickness_mm.", where)
        if self.thickness_mm is None:
            return None
        ends = self.thickness_mm if isinstance(self.thickness_mm, list) else [self.thickness_mm] * 2
        return np.asarray(np.interp(stations, stations[[0, -1]], np.array(ends) * MM))


class _String(_Strict):
    brace_height_mm: Positive | None = None
    length_mm: Positive | None = None


class _Pivot(_Strict):
    along_mm: Finite = 0.0
    across_mm: Finite = 0.0


class _Hold(_Strict):
    support: Literal["hand", "rocking cradle", "clamp"] = "hand"
    string_held_by: Literal["fingers", "sliding hook"] = "fingers"
    pivot: _Pivot = _Pivot()
    nock_offset_mm: Finite = 0.0


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
    draw_mm: Positive | None = None


def loads(text: str) -> Bow:
    """Read a bow file.

    Args:
        text: the file's content.

    Raises:
        DescriptionError: names the path of the key and the reason.
    """
    if len(text) > MOST_BYTES:
        raise DescriptionError("The file is too large to be a bow.")
    try:
        content = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as error:
        raise DescriptionError(f"This is not a JSON file: {error}.") from None
    try:
        file = _File.model_validate(content)
    except ValidationError as error:
        first = error.errors()[0]
        raise DescriptionError(_reason(first["type"], first["msg"]), _path(first["loc"])) from None
    shape = completed(Shape(file.section.shape, file.section.figures()))
    limbs = []
    for side in ("upper", "lower"):
        part: _Limb = getattr(file.limbs, side)
        limb = _limb(part, shape, file.layers)
        check_limb(limb, f"limbs.{side}")
        limbs.append(limb)
    if (file.string.brace_height_mm is None) == (file.string.length_mm is None):
        raise DescriptionError("Give either brace_height_mm or length_mm.", "string")
    hold = Hold(
        file.hold.support,
        file.hold.string_held_by,
        (file.hold.pivot.along_mm * MM, file.hold.pivot.across_mm * MM),
        file.hold.nock_offset_mm * MM,
    )
    brace, length = file.string.brace_height_mm, file.string.length_mm
    return Bow(
        limbs[0],
        limbs[1],
        hold,
        None if brace is None else brace * MM,
        None if length is None else length * MM,
        file.name,
    )


def _limb(part: _Limb, shape: Shape, described: list[_Layer]) -> Limb:
    stations = np.array([[s.at_mm, s.width_mm, s.thickness_mm] for s in part.stations]).T * MM
    layers = tuple(
        Layer(la.role, la.material, la.modulus_mpa * MPA, la.density_kg_m3, la.at(stations[0], f"layers[{number}]"))
        for number, la in enumerate(described)
    )
    unstrung = [(c.at_mm * MM, c.curvature_per_m) for c in part.unstrung] or [(0.0, 0.0), (1.0, 0.0)]
    if len(unstrung) == 1:
        raise DescriptionError("Give the unstrung curvature at two places or more.", "limbs.unstrung")
    places, curvature = np.array(unstrung).T
    root = (part.root.along_mm * MM, part.root.across_mm * MM, math.radians(part.root.angle_deg))
    return Limb(stations[0], stations[1], stations[2], layers, shape, root, places, curvature)


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


def dumps(bow: Bow, notes: str = "", draw: float | None = None) -> str:
    """Write a bow as a bow file; ``draw`` in m."""

    def limb(side: Limb) -> dict[str, Any]:
        return {
            "root": {
                "along_mm": _mm(side.root[0]),
                "across_mm": _mm(side.root[1]),
                "angle_deg": round(math.degrees(side.root[2]), 6),
            },
            "stations": [
                {"at_mm": _mm(at), "width_mm": _mm(w), "thickness_mm": _mm(t)}
                for at, w, t in zip(side.at, side.width, side.thickness, strict=True)
            ],
            "unstrung": [
                {"at_mm": _mm(at), "curvature_per_m": round(float(k), 9)}
                for at, k in zip(side.unstrung_at, side.unstrung, strict=True)
            ]
            if np.any(side.unstrung)
            else [],
        }

    content: dict[str, Any] = {
        "format": "fellwind-bow",
        "version": 1,
        "name": bow.name,
        "limbs": {"upper": limb(bow.upper), "lower": limb(bow.lower)},
        "section": {"shape": bow.upper.shape.name, **bow.upper.shape.figures},
        "layers": [
            {
                "role": layer.role,
                "material": layer.material,
                "modulus_mpa": layer.modulus / MPA,
                "density_kg_m3": layer.density,
                **_depth(layer),
            }
            for layer in bow.upper.layers
        ],
        "string": {"brace_height_mm": _mm(bow.brace_height)}
        if bow.brace_height is not None
        else {"length_mm": _mm(bow.string_length or 0.0)},
        "hold": {
            "support": bow.hold.support,
            "string_held_by": bow.hold.held_by,
            "pivot": {"along_mm": _mm(bow.hold.pivot[0]), "across_mm": _mm(bow.hold.pivot[1])},
            "nock_offset_mm": _mm(bow.hold.nock_offset),
        },
    }
    if notes:
        content["notes"] = notes
    if draw is not None:
        content["draw_mm"] = _mm(draw)
    return json.dumps(content, indent=1, ensure_ascii=False)


def _depth(layer: Layer) -> dict[str, Any]:
    if layer.thickness is None:
        return {"thickness": "rest"}
    return {"thickness_mm": [_mm(layer.thickness[0]), _mm(layer.thickness[-1])]}


def _mm(metres: float) -> float:
    return round(float(metres) / MM, 6)


def result(curve: Curve) -> dict[str, Any]:
    """What ``./fellwind solve --json`` prints for a solved bow."""
    braced, drawn = curve.braced, curve.drawn
    return {
        "brace": {
            "height_mm": None if braced.slack else _mm(braced.height[0]),
            "string_length_mm": _mm(braced.string_length[0]),
            "tension_n": round(float(braced.tension[0]), 6),
        },
        "curve": [
            {
                "draw_mm": _mm(drawn.draw[i]),
                "weight_n": round(float(drawn.weight[i]), 6),
                "tension_upper_n": round(float(drawn.tension[0, i]), 6),
                "tension_lower_n": round(float(drawn.tension[1, i]), 6),
                "energy_j": round(max(0.0, float(curve.energy[i])), 6),
                "strain_max": {
                    "value": round(peak.value, 9),
                    "limb": ("upper", "lower")[peak.limb],
                    "face": peak.face,
                    "at_mm": _mm(peak.at),
                },
            }
            for i, peak in enumerate(curve.peaks)
        ],
    }
