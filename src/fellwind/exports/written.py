"""Marks as they are written on paper."""

from bowyery import units
from bowyery.layout import Mark


def written(mark: Mark, marked_in: str) -> tuple[str, str, str]:
    """Distance from the centre, width and thickness of a mark as they are marked on the wood."""
    if marked_in == "metric":
        return f"{mark.from_centre * 1000:.0f}", f"{mark.width * 1000:.1f}", f"{mark.thickness * 1000:.1f}"
    return (
        units.fraction_text(mark.from_centre / units.INCH, 32, plain=True),
        units.fraction_text(mark.width / units.INCH, 32, plain=True),
        units.fraction_text(mark.thickness / units.INCH, 64, plain=True),
    )
