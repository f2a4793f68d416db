"""What opens the valve: the first thing that Ondine must know of a table, and what each shot remembers."""

from __future__ import annotations

from enum import StrEnum

SIMULATED_SOFTWARE = "Ondine simulated bench"
"""What a simulated picture names as the software that made it (EXIF, tag Software)."""


class BenchKind(StrEnum):
    """What opens the valve and fires flash and camera.

    UNKNOWN is for shots of older logbooks that do not tell; no bench is of that kind.
    """

    BY_HAND = "by hand"
    CABLE = "by cable"
    SIMULATED = "simulated"
    UNKNOWN = "unknown"

    @property
    def is_driven(self) -> bool:
        """Whether Ondine itself opens the valve and knows when the flash fired."""
        return self in (BenchKind.CABLE, BenchKind.SIMULATED)

    @property
    def is_real(self) -> bool:
        """Whether water falls there, as far as anybody knows."""
        return self is not BenchKind.SIMULATED
