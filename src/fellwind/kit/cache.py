"""Results of the core, kept under the key of their inputs, so that nothing computed is a record.

The key is made of the inputs' content and of the core's own sources: another bow, or another core,
is another key.
"""

import hashlib
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import fields, is_dataclass
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from django.core.cache import caches

import bowyery
from bowyery.errors import BowyeryError

Result = TypeVar("Result")


@cache
def core_digest() -> bytes:
    """Digest of the core's sources and data, as they were when the first answer was asked for."""
    root = Path(bowyery.__file__).parent
    digest = hashlib.sha256()
    for path in sorted(p for p in root.rglob("*") if p.suffix in (".py", ".toml")):
        digest.update(str(path.relative_to(root)).encode() + b"\0" + path.read_bytes() + b"\0")
    return digest.digest()


def digest_of(value: object) -> bytes:
    """Digest of a value by its content: fields of dataclasses, bytes of arrays, exact numbers.

    Raises:
        TypeError: something whose content cannot be told, such as a function.
    """
    digest = hashlib.sha256()
    _feed(digest.update, value)
    return digest.digest()


def _feed(put: Callable[[bytes], None], value: object) -> None:
    """Put a value's kind and content; every piece ends where the next begins."""
    if value is None or isinstance(value, bool | int | str | bytes):
        text = value if isinstance(value, bytes) else str(value).encode()
        put(f"{type(value).__name__} {len(text)} ".encode() + text)
    elif isinstance(value, float):
        put(b"float " + value.hex().encode() + b" ")
    elif isinstance(value, complex):
        _feed(put, (value.real, value.imag))
    elif isinstance(value, np.ndarray):
        put(
            f"array {value.dtype.str} {value.shape} ".encode()
            + np.ascontiguousarray(value).tobytes()
        )
    elif isinstance(value, np.generic):
        _feed(put, value.item())
    elif isinstance(value, tuple | list):
        put(f"row {len(value)} ".encode())
        for one in value:
            _feed(put, one)
    elif isinstance(value, Mapping):
        put(f"map {len(value)} ".encode())
        for one in sorted(value.items(), key=lambda pair: str(pair[0])):
            _feed(put, one)
    elif is_dataclass(value) and not isinstance(value, type):
        put(f"{type(value).__qualname__} ".encode())
        for part in fields(value):
            _feed(put, getattr(value, part.name))
    else:
        raise TypeError(f"the content of {type(value).__name__} cannot be told")


def computed(what: str, inputs: object, compute: Callable[[], Result], keep: bool = True) -> Result:
    """Return the kept result for these inputs, or compute and keep it.

    Args:
        what: a name for the computation.
        inputs: whatever it depends on, as for :func:`digest_of`.
        compute: called when nothing is kept. A BowyeryError it raises is kept and raised again.
        keep: False for figures that are only tried while somebody types.
    """
    key = hashlib.sha256(core_digest() + what.encode() + b"\0" + digest_of(inputs)).hexdigest()
    store = caches["core"]
    kept: Any = store.get(key)
    if kept is None:
        try:
            kept = (compute(), None)
        except BowyeryError as error:
            kept = (None, error)
        if keep:
            with suppress(OSError):  # a full disk keeps no results, and still answers
                store.set(key, kept)
    answer: Result = kept[0]
    if kept[1] is not None:
        raise kept[1]
    return answer
