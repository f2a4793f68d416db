"""The colours that the simulated splash stands in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Look:
    """What the liquid stands in: colours of sheet, pool and dye, and the strength of the side light.

    `low`, `high`: sheet colours at its foot and head; `glow`: colour of its lit middle; `pool`: colour of the
    water; `dye`, `pool_dye`: absorbance per mm of the falling liquid and of the pool.
    """

    low: tuple[float, float, float] = (0.02, 0.20, 0.20)
    high: tuple[float, float, float] = (0.01, 0.10, 0.15)
    glow: tuple[float, float, float] = (0.95, 0.95, 0.84)
    pool: tuple[float, float, float] = (0.02, 0.20, 0.14)
    dye: tuple[float, float, float] = (0.01, 0.50, 0.22)
    pool_dye: tuple[float, float, float] = (0.09, 0.02, 0.06)
    side_light: float = 5.0

    def packed(self) -> Floats:
        """Return the colours as the tracer reads them, shape (19,)."""
        colours = (self.low, self.high, self.glow, self.pool, self.dye, self.pool_dye)
        return np.array([c for colour in colours for c in colour] + [self.side_light])
