"""Names for the arrays that the core passes about."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Points = NDArray[
    np.complex128
]  # in the plane: along the handle axis, and i times across to the belly
Whole = NDArray[np.int64]
