"""Photographs from outside: checked by their content, turned upright, made small enough, and
written anew.
"""

import io
import struct
import threading
import warnings
from pathlib import Path
from typing import Any
from uuid import uuid4

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.http import FileResponse, Http404
from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

MOST_BYTES = 25_000_000
MOST_PIXELS = 60_000_000
MOST_WHOLE = 24_000_000  # pixels of a kind that is unpacked whole before it is made smaller
KINDS = ("JPEG", "PNG", "WEBP")
_UNPACKING = threading.Lock()
SIDES = {"": 1800, "-small": 480}  # longest side of each copy, by the end of its name (pixels)


class PhotoError(ValueError):
    """What is wrong with a file that was given as a photograph, as a sentence."""


def read_photo(file: "UploadedFile[Any]") -> Image.Image:
    """Open a file as a photograph, upright, in plain colours and no larger than is kept, without
    what else the camera wrote into it. One is unpacked at a time, whoever sends how many.

    Raises:
        PhotoError: it is too large, no picture of a kind that is taken, or damaged.
    """
    if file.size is None or file.size > MOST_BYTES:
        raise PhotoError(
            f"This file is larger than {MOST_BYTES // 1_000_000} MB; send a smaller copy."
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            picture = Image.open(file, formats=KINDS)
            most = MOST_PIXELS if picture.format == "JPEG" else MOST_WHOLE
            if picture.width * picture.height > most:
                raise PhotoError(
                    f"This picture has more than {most // 1_000_000} million pixels; send a smaller"
                    " copy, or a JPEG."
                )
            with _UNPACKING:
                upright = ImageOps.exif_transpose(_reduced(picture))
    except UnidentifiedImageError:
        raise PhotoError(
            "This is not a photograph that can be read: send a JPEG, PNG or WebP picture."
        ) from None
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        if isinstance(error, PhotoError):
            raise
        raise PhotoError("This picture is damaged or was cut short; send it again.") from None
    if min(upright.size) < 16:
        raise PhotoError("This picture is too small to show anything.")
    return upright


_BAND = 64  # rows of the reduced picture that are made at a time


def _reduced(picture: Image.Image) -> Image.Image:
    """A picture on white, unpacked to about twice the size that is kept at most, band by band: no
    second copy of the whole of it is ever made. A JPEG is unpacked no larger at once.
    """
    most, turned = max(SIDES.values()), Image.Exif()
    turned[ExifTags.Base.Orientation] = _orientation(picture)
    picture.draft("RGB", (most, most))
    picture.load()
    by = max(1, max(picture.size) // most)
    width, height = (-(-side // by) for side in picture.size)
    plain = Image.new("RGB", (width, height), "white")
    for top in range(0, height, _BAND):
        rows = min(picture.height, (top + _BAND) * by)
        band = picture.crop((0, top * by, picture.width, rows)).convert("RGBA")
        white = Image.new("RGB", band.size, "white")
        white.paste(band, mask=band.getchannel("A"))
        plain.paste(white.reduce(by) if by > 1 else white, (0, top))
    plain.info["exif"] = turned.tobytes()
    return plain


def _orientation(picture: Image.Image) -> int:
    """How the camera was held, 1 to 8; upright where nothing sensible is said."""
    try:
        told = picture.getexif().get(ExifTags.Base.Orientation)
    except (OSError, SyntaxError, ValueError, TypeError, KeyError, struct.error):
        told = None
    return told if isinstance(told, int) and 1 <= told <= 8 else 1


def keep_photo(picture: Image.Image) -> tuple[str, int, int]:
    """Write a photograph and its small copy; return its name, width and height (pixels)."""
    name = uuid4().hex
    settings.PHOTOS.mkdir(parents=True, exist_ok=True)
    size = (0, 0)
    for ending, side in SIDES.items():
        copy = picture.copy()
        copy.thumbnail((side, side))
        size = max(size, copy.size)
        written = io.BytesIO()
        copy.save(written, "JPEG", quality=86, optimize=True)
        path = photo_path(name, ending)
        path.with_suffix(".part").write_bytes(written.getvalue())
        path.with_suffix(".part").rename(path)
    return name, *size


def photo_path(name: str, ending: str = "") -> Path:
    """Where the file of a photograph lies."""
    return Path(settings.PHOTOS) / f"{name}{ending}.jpg"


def photo_answer(name: str, ending: str = "") -> FileResponse:
    """The picture itself, or its small copy, as an answer; raises Http404."""
    path = photo_path(name, ending)
    if not path.exists():
        raise Http404("Its file is missing; a backup may hold it.")
    answer = FileResponse(path.open("rb"), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer
