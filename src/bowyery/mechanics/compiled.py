"""Numba's compiler, with the settings that the core uses and types that survive it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba

from bowyery.arrays import Floats

F = TypeVar("F", bound=Callable[..., Any])


def compiled(function: F) -> F:
    """Compile a function at its first call, once for each machine: what was compiled is kept beside
    the source. It holds no lock while it runs.
    """
    return cast(F, numba.njit(cache=True, nogil=True, error_model="numpy")(function))


@compiled
def copied(into: Floats, out_of: Floats) -> None:
    """Copy a row, ``into`` from ``out_of``, both ``(n,)``, one by one: a whole slice compiles for
    seconds, because its refusal of other shapes is put into words.
    """
    for i in range(into.size):
        into[i] = out_of[i]
