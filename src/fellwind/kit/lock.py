"""One at a time: a server, a restore or a migration holds the shop's data, and says so."""

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

NAME = "in-use"


class InUseError(Exception):
    """Somebody else holds the data."""


@contextmanager
def held(home: Path, what: str) -> Iterator[None]:
    """Hold a shop's data; the system lets go of them when the process ends, however it ends.

    Args:
        what: what holds them, as in "a server".

    Raises:
        InUseError: somebody else does.
    """
    descriptor = os.open(home / NAME, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            holder = os.read(descriptor, 200).decode(errors="replace") or "another process"
            raise InUseError(
                f"The data in {home} are in use by {holder}. Stop that first."
            ) from None
        os.ftruncate(descriptor, 0)
        os.pwrite(descriptor, f"{what} (process {os.getpid()})".encode(), 0)
        yield
    finally:
        os.close(descriptor)
