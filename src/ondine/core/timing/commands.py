"""What the controller's outputs are told, in whole microseconds from the trigger."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Commands:
    """A sequence made ready: valve pulses as they are; flashes or camera may be left to something else (None).

    `flashes_us` fires the flashes, in the order of the sequence; None: the camera fires them. `shutter_us`,
    `mirror_us` and `half_press_us` go to the camera; None: nothing does, or a hand.
    """

    sequence: Sequence
    flashes_us: tuple[int, ...] | None
    shutter_us: int | None
    mirror_us: int | None = None
    half_press_us: int | None = None
    dark: bool = False
    """The flashes stay dark: a test of the room."""
