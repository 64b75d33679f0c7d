"""Results of the core, kept under the key of their inputs, so that nothing computed is ever a record."""

import hashlib
from collections.abc import Callable
from typing import Any, TypeVar

from django.core.cache import caches

from bowyery.errors import BowyeryError

CORE_VERSION = "4"
Result = TypeVar("Result")


def computed(what: str, inputs: object, compute: Callable[[], Result], keep: bool = True) -> Result:
    """Return the kept result for these inputs, or compute and keep it.

    Args:
        what: a name for the computation.
        inputs: whatever it depends on, with a ``repr`` that shows all of it.
        compute: called when nothing is kept. A BowyeryError it raises is kept and raised again.
        keep: False for figures that are only tried while somebody types.
    """
    key = hashlib.sha256(f"{CORE_VERSION}|{what}|{inputs!r}".encode()).hexdigest()
    store = caches["core"]
    kept: Any = store.get(key)
    if kept is None:
        try:
            kept = (compute(), None)
        except BowyeryError as error:
            kept = (None, error)
        if keep:
            store.set(key, kept)
    result, error = kept
    if error is not None:
        raise error
    return result
