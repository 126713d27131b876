"""Points that fill a box evenly (Sobol, 1967), the same on every machine: what motors and conditions are drawn by."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..tables import table

_TABLE = table(__package__, "even_points")
MOTORS: NDArray[np.float64] = np.array(_TABLE["motors"])
"""[motors, 6]: a share of each parameter that a plate leaves free."""
CONDITIONS: NDArray[np.float64] = np.array(_TABLE["conditions"])
"""[samples, 4]: shares of the fault's size, the volts, the microfarads, the load."""
