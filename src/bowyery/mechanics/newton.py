"""Newton's method for a batch of small systems, with the steps that a bow's tensions and nock
angles bear.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import NotConvergedError

_STEPS = 60
_CLOSE = 1e-10
_NEAR = 1e-7
Residual = Callable[[Floats], tuple[Floats, Floats]]


def newton(
    residual: Residual,
    x: Floats,
    tensions: list[int],
    nocks: list[int],
    what: str,
    close: float = _CLOSE,
    near: float = _NEAR,
) -> Floats:
    """Solve ``residual(x) = (r, J)`` for a batch.

    Args:
        residual: gives r, ``(unknowns, B)``, and its derivatives, ``(unknowns, unknowns, B)``.
        x: first guess, ``(unknowns, B)``; tensions are scaled to about one.
        tensions: rows of x that change by half of themselves at most.
        nocks: rows that are angles at the nock above zero and lengths in contact below.
        what: the name of the state, for the error's sentence.
        close: where to stop.
        near: what is still accepted when no step makes it smaller.

    Raises:
        NotConvergedError: for some of the batch no answer was found.
    """
    r, jac = residual(x)
    size = np.abs(r).max(0)
    for _ in range(_STEPS):
        done = size < close
        if done.all():
            return x
        try:
            step = -np.linalg.solve(jac.transpose(2, 0, 1), r.T[..., None])[..., 0].T
        except np.linalg.LinAlgError:
            # one hopeless state does not stop the others: its step is the shortest that helps at
            # all
            step = -(np.linalg.pinv(jac.transpose(2, 0, 1)) @ r.T[..., None])[..., 0].T
        limit = np.full_like(step, 0.35)
        limit[tensions] = 0.5 * np.abs(x[tensions]) + 0.05
        at = x[nocks]
        limit[nocks] = np.where(
            at <= 0, 0.03, np.where(step[nocks] < 0, np.minimum(at + 0.02, 0.35), 0.35)
        )
        factor = np.minimum(1.0, (limit / np.maximum(np.abs(step), 1e-300)).min(0))
        factor[done] = 0.0
        for _ in range(6):
            trial = x + factor * step
            r_new, jac_new = residual(trial)
            size_new = np.abs(r_new).max(0)
            worse = ~(size_new < np.maximum(2.0 * size, close)) & ~done
            if not worse.any():
                break
            factor = np.where(worse, 0.3 * factor, factor)
        x, r, jac, size = trial, r_new, jac_new, size_new
    bad = int((~(size < near)).sum())
    if bad:
        raise NotConvergedError(
            f"{what} could not be found for {bad} of {size.size} states; change the draw or string"
            " a little."
        )
    return x
