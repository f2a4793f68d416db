"""A controller with dials and no cable: how it counts, what its dials are called, what they can be set to."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ondine.core.setup.fields import number, plain


class Counts(StrEnum):
    """What the wait before a later drop is measured from."""

    ABSOLUTE = "from the trigger"
    START_TO_START = "start to start"
    CLOSING_TO_OPENING = "closing to opening"


class FlashFrom(StrEnum):
    """What the flash delay is measured from."""

    TRIGGER = "the trigger"
    FIRST_OPENING = "the first opening"
    LAST_OPENING = "the last opening"
    LAST_CLOSING = "the last closing"


@dataclass(frozen=True)
class Box:
    """A profile of one box. `in_use` says that a hand turns its dials instead of Ondine driving a cable."""

    in_use: bool = plain(False, "Dialled by hand")
    name: str = plain("Dial box", "Box")
    counts: Counts = plain(Counts.CLOSING_TO_OPENING, "Waits count")
    flash_from: FlashFrom = plain(FlashFrom.TRIGGER, "Flash counts from")
    open_name: str = plain("Open", "It calls an opening")
    wait_name: str = plain("Wait", "It calls a wait")
    flash_name: str = plain("Flash", "It calls the flash delay")
    step_us: int = number(1_000, 1, 1_000_000, "Step of the dials")
    least_us: int = number(0, 0, 1_000_000, "Least")
    most_us: int = number(999_000, 1_000, 100_000_000, "Most")
    max_drops: int = number(3, 1, 8, "Drops it knows")
    max_valves: int = number(1, 1, 4, "Valves it knows")
    max_flashes: int = number(1, 1, 4, "Flashes it knows")
