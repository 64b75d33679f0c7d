"""Results of the core, kept under the key of their inputs, so that nothing computed is a record.

The key is made of the inputs' content and of the core's own sources: another bow, or another core,
is another key.
"""

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator, Mapping
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from dataclasses import fields, is_dataclass
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from django.conf import settings
from django.core.cache import caches

import bowyery
from bowyery.errors import BowyeryError
from fellwind.kit import compiling

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


class _Turns:
    """One at a time for one key; others wait for what it finds. What asks for itself runs into the
    limit of recursion, where a plain lock would wait for ever.
    """

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._open: dict[str, tuple[threading.RLock, int]] = {}

    @contextmanager
    def __call__(self, key: str) -> Iterator[None]:
        with self._guard:
            turn, count = self._open.get(key, (threading.RLock(), 0))
            self._open[key] = turn, count + 1
        try:
            with turn:
                yield
        finally:
            with self._guard:
                turn, count = self._open.pop(key)
                if count > 1:
                    self._open[key] = turn, count - 1


_in_turn = _Turns()


class Recent:
    """The newest results in memory, so that a page does not read the same file again and again."""

    def __init__(self, most: int) -> None:
        self._most, self._guard = most, threading.Lock()
        self._rows: OrderedDict[Hashable, Any] = OrderedDict()

    def get(self, key: Hashable) -> Any:
        """What is kept, or None."""
        with self._guard:
            if key in self._rows:
                self._rows.move_to_end(key)
            return self._rows.get(key)

    def put(self, key: Hashable, kept: Any) -> None:
        """Keep it, and let the oldest go."""
        with self._guard:
            self._rows[key] = kept
            while len(self._rows) > self._most:
                self._rows.popitem(last=False)


_large, _small, _by_data = Recent(48), Recent(4000), Recent(24)
HEAD = 48  # bytes: the first copy of the index's head, with its count of changes and its checksum
READY = 12  # where the head says that it is filled


def _key(what: str, inputs: object) -> str:
    return hashlib.sha256(core_digest() + what.encode() + b"\0" + digest_of(inputs)).hexdigest()


def _kept(key: str, recent: Recent) -> Any:
    kept = recent.get(key)
    if kept is None:
        kept = caches["core"].get(key)
        if kept is not None:
            recent.put(key, kept)
    return kept


def _given(kept: Any) -> Any:
    if kept[1] is not None:
        raise kept[1]
    return kept[0]


_read: ContextVar[dict[Hashable, Any] | None] = ContextVar("read", default=None)


@contextmanager
def reading() -> Iterator[None]:
    """For a request that writes nothing: what :func:`read_once` has read in here is not read
    again.
    """
    before = _read.set({})
    try:
        yield
    finally:
        _read.reset(before)


def read_once(key: Hashable, read: Callable[[], Result]) -> Result:
    """What was read of the data under this key on this page, or else read now."""
    rows = _read.get()
    if rows is None:
        return read()
    if key not in rows:
        rows[key] = read()
    answer: Result = rows[key]
    return answer


def data_version() -> bytes | None:
    """What every commit changes; None where that cannot be told."""
    file = Path(str(settings.DATABASES["default"]["NAME"]))
    try:
        with file.with_name(f"{file.name}-shm").open("rb") as index:
            head = index.read(HEAD)
        data = file.stat()
    except OSError:
        return None
    if len(head) < HEAD or not head[READY]:
        return None
    return head + f"{data.st_mtime_ns} {data.st_size} ".encode()


def read_kept(key: Hashable, read: Callable[[], Result]) -> Result:
    """The same, and on later pages too, as long as nobody has written anything in between; what it
    holds is read by others at the same time and never changed.
    """
    version = data_version() if _read.get() is not None else None
    if version is None:
        return read_once(key, read)

    def kept() -> Result:
        found: Result | None = _by_data.get((version, key))
        if found is None:
            found = read()
            _by_data.put((version, key), found)
        return found

    return read_once(key, kept)


def peek(what: str, inputs: object) -> Any:
    """A small result that is kept, or None; nothing is computed. A kept BowyeryError is raised."""
    kept = _kept(_key(what, inputs), _small)
    return None if kept is None else _given(kept)


def computed(
    what: str,
    inputs: object,
    compute: Callable[[], Result],
    keep: bool = True,
    small: bool = False,
    bends: bool = True,
) -> Result:
    """Return the kept result for these inputs, or compute and keep it. Several that ask for the
    same at once wait for one computation.

    Args:
        inputs: whatever it depends on, as for :func:`digest_of`.
        compute: called when nothing is kept. A BowyeryError it raises is kept and raised again.
        keep: False for figures that are only tried while somebody types.
        small: a few words or one small picture, of which very many fit into memory.
        bends: it asks the mechanics, which may still be compiling.
    """
    key, recent = _key(what, inputs), _small if small else _large
    kept = _kept(key, recent)
    if kept is None:
        with _in_turn(key):
            kept = _kept(key, recent)
            if kept is None:
                if bends:
                    compiling.wait()
                try:
                    kept = (compute(), None)
                except BowyeryError as error:
                    kept = (None, error)
                if keep:
                    recent.put(key, kept)
                    with suppress(OSError):  # a full disk keeps no results, and still answers
                        caches["core"].set(key, kept)
    answer: Result = _given(kept)
    return answer
