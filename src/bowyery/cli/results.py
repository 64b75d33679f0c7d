"""What ``./fellwind solve --json`` prints."""

from __future__ import annotations

import math
from typing import Any

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES
from bowyery.bow.bowfile import in_mm
from bowyery.mechanics.back_bow import SharedCurve
from bowyery.mechanics.curve import Curve, Peak
from bowyery.mechanics.shot import Shot


def solved(curve: Curve) -> dict[str, Any]:
    """What ``./fellwind solve --json`` prints for a solved bow."""
    braced, drawn = curve.braced, curve.drawn
    rows = [
        _row(drawn.draw[i], drawn.weight[i], drawn.tension[:, i], curve.energy[i], peak)
        for i, peak in enumerate(curve.peaks)
    ]
    return {
        "brace": _brace(
            float(braced.height[0]), float(braced.string_length[0]), float(braced.tension[0])
        ),
        "curve": rows,
    }


def shared(curve: SharedCurve) -> dict[str, Any]:
    """Likewise for a bow with a back-bow: how the cables pull and what share of the bending the
    second bow carries.
    """
    brace = _brace(curve.brace_height, curve.string_length, curve.brace_tension)
    rows = []
    for i, peak in enumerate(curve.peaks):
        back = {
            "cable_upper_n": round(float(curve.cable[0, i]), 6),
            "cable_lower_n": round(float(curve.cable[1, i]), 6),
            "share": round(float(curve.share[i]), 6),
            "strain_max": round(float(curve.strain[1, i]), 9),
        }
        rows.append(
            _row(curve.draw[i], curve.weight[i], curve.tension[:, i], curve.energy[i], peak)
            | {"back_bow": back}
        )
    return {"brace": brace | {"back_bow_share": round(curve.rest_share, 6)}, "curve": rows}


def shot(loosed: Shot) -> dict[str, Any]:
    """What the same call adds where the file names an arrow."""
    return {
        "arrow_g": in_mm(loosed.arrow),
        "speed_m_s": round(loosed.speed, 4),
        "speed_low_m_s": round(loosed.low, 4),
        "speed_high_m_s": round(loosed.high, 4),
        "efficiency": round(loosed.efficiency, 5),
        "virtual_mass_g": in_mm(loosed.virtual_mass),
        "peak_tension_n": round(loosed.peak_tension, 3),
    }


def _brace(height: float, length: float, tension: float) -> dict[str, Any]:
    return {
        "height_mm": None if math.isnan(height) else in_mm(height),
        "string_length_mm": in_mm(length),
        "tension_n": round(float(tension), 6),
    }


def _row(draw: float, weight: float, tension: Floats, energy: float, peak: Peak) -> dict[str, Any]:
    return {
        "draw_mm": in_mm(draw),
        "weight_n": round(float(weight), 6),
        "tension_upper_n": round(float(tension[0]), 6),
        "tension_lower_n": round(float(tension[1]), 6),
        "energy_j": round(max(0.0, float(energy)), 6),
        "strain_max": {
            "value": round(peak.value, 9),
            "limb": SIDES[peak.limb],
            "face": peak.face,
            "at_mm": in_mm(peak.at),
        },
    }
