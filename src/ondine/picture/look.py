"""The colours that the simulated splash stands in."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Lamps:
    """Light from behind, from the side and above, and out of the bowl, as shares of the season's; colour gains."""

    behind: float = 1.0
    side: float = 1.0
    bowl: float = 0.0
    gains: tuple[float, float, float] = (1.0, 1.0, 1.0)


@dataclass(frozen=True)
class Ink:
    """How a falling liquid looks: `dye`, its absorbance per mm; `cloud`, the share of the light that it scatters, in
    `cloud_tint`.
    """

    dye: tuple[float, float, float] = (0.01, 0.50, 0.22)
    cloud: float = 0.0
    cloud_tint: tuple[float, float, float] = (1.0, 1.0, 1.0)


@dataclass(frozen=True)
class Look:
    """What the liquid stands in: colours of sheet, pool and liquids, and the strength of the side light.

    `low`, `high`: sheet colours at its foot and head; `glow`: colour of its lit middle; `pool`: colour of the
    water; `pool_dye`: its absorbance per mm; `inks`: of what falls, by the numbers that a scene's parts bear.
    """

    low: tuple[float, float, float] = (0.02, 0.20, 0.20)
    high: tuple[float, float, float] = (0.01, 0.10, 0.15)
    glow: tuple[float, float, float] = (0.95, 0.95, 0.84)
    pool: tuple[float, float, float] = (0.02, 0.20, 0.14)
    pool_dye: tuple[float, float, float] = (0.09, 0.02, 0.06)
    side_light: float = 5.0
    side_tint: tuple[float, float, float] = (1.0, 0.98, 0.95)
    inks: tuple[Ink, ...] = (Ink(),)

    def under(self, lamps: Lamps) -> Look:
        """Return the look as it is under other lamps than the season's: brighter or darker, warmer or bluer."""
        back = tuple(lamps.behind * gain for gain in lamps.gains)
        # What falls from the side lights pool and splash, hardly the sheet; light in the bowl wells up through it.
        pool = lamps.behind * 0.6 + lamps.side * 0.25 + lamps.bowl * 1.2
        return replace(
            self,
            low=_times(self.low, back),
            high=_times(self.high, back),
            glow=_times(self.glow, back),
            pool=_times(self.pool, tuple(pool * gain / 0.85 for gain in lamps.gains)),
            side_light=self.side_light * lamps.side,
        )

    def packed(self) -> Floats:
        """Return the colours as the tracer reads them, shape (INKS_AT + INK * inks,)."""
        inks = [(*ink.dye, ink.cloud, *ink.cloud_tint) for ink in self.inks]
        colours = self.low, self.high, self.glow, self.pool, self.pool_dye, (self.side_light,), self.side_tint, *inks
        return np.array([c for colour in colours for c in colour])


def _times(colour: tuple[float, float, float], gains: tuple[float, ...]) -> tuple[float, float, float]:
    red, green, blue = (c * g for c, g in zip(colour, gains, strict=True))
    return red, green, blue
