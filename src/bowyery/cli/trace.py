"""``trace PHOTO BOWFILE``: read the shape of a drawn bow's limbs from a photograph."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

import cv2
import numpy as np

from bowyery.cli.files import read_bow
from bowyery.errors import DescriptionError
from bowyery.sight.outline import STATES
from bowyery.sight.trace import TAPS, Trace, trace


def arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.add_argument("photo", help="JPEG or PNG; upper limb to the right, back upwards")
    parser.add_argument("file", help="the bow file")
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--tags", action="store_true", help="tag pages hang on the wall (the usual)")
    how.add_argument("--taps", nargs=len(TAPS), metavar="x,y", help="pixels of " + ", ".join(TAPS))
    parser.add_argument("--state", choices=STATES, default="drawn")
    parser.add_argument("--json", action="store_true")


def read_picture(path: str) -> np.ndarray:
    """Read a picture.

    Returns:
        It, ``(high, wide, 3)``, 8 bits, blue first, turned as its camera says.

    Raises:
        DescriptionError: it cannot be opened, or is no picture.
    """
    try:
        content = np.frombuffer(Path(path).read_bytes(), np.uint8)
    except OSError as error:
        raise DescriptionError(f"The file {path} cannot be read: {error.strerror}.") from None
    image = None
    if content.size:
        try:
            image = cv2.imdecode(content, cv2.IMREAD_COLOR)
        except cv2.error:
            image = None
    if image is None:
        raise DescriptionError(f"The file {path} is no picture; send a JPEG or a PNG.")
    return np.asarray(image)


def _taps(words: list[str]) -> np.ndarray:
    try:
        points = [[float(part) for part in word.split(",")] for word in words]
    except ValueError:
        points = []
    if any(len(point) != 2 for point in points) or len(points) != len(words):
        raise DescriptionError("Each tap is two numbers with a comma between: across,down.", "taps")
    return np.array(points)


def traced(given: argparse.Namespace) -> str:
    """Read the photograph and return what to print.

    Raises:
        BowyeryError: a file or a tap that cannot be read.
    """
    bow = read_bow(given.file)
    taps = None if given.taps is None else _taps(given.taps)
    found = trace(read_picture(given.photo), bow, given.state, taps)
    if given.json:
        return json.dumps(found.as_json())
    return "\n".join(_lines(found))


def _lines(found: Trace) -> list[str]:
    if not found.found:
        return [f"Not read: {found.why}"]
    said = []
    for name, rows in found.limbs.items():
        along, across, error = rows[-1]
        said.append(f"{name} nock {along:.0f} mm along, {across:.0f} mm across, ± {error:.1f} mm")
    if found.draw is not None:
        said.append(f"draw {found.draw:.0f} mm")
    return [*said, found.why] if found.why else said
