"""Bow files as the commands read them."""

from __future__ import annotations

from pathlib import Path

from bowyery.bow import bowfile
from bowyery.bow.bow import Bow
from bowyery.errors import DescriptionError


def read_bow(path: str) -> Bow:
    """Read a bow file.

    Raises:
        DescriptionError: it cannot be read, is no text, or describes no bow.
    """
    try:
        text = Path(path).read_text(encoding="utf-8")
    except OSError as error:
        raise DescriptionError(f"The file {path} cannot be read: {error.strerror}.") from None
    except UnicodeDecodeError:
        raise DescriptionError(f"The file {path} is not text.") from None
    return bowfile.loads(text)
