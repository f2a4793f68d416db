"""What the controller's outputs are told, in whole microseconds from the trigger."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Commands:
    """A sequence made ready: valve pulses as they are; one of flash or camera may be left to something else (None).

    `flash_us` fires the flash; `shutter_us` fires the camera, which may fire the flash itself.
    """

    sequence: Sequence
    flash_us: int | None
    shutter_us: int | None
    dark: bool = False
    """The flash stays dark: a test of the room."""
