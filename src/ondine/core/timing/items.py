"""The things of a sequence that a hand can take hold of: drops, flashes, and what the camera is told."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ondine.core.constants import US_PER_S
from ondine.core.setup import FlashFiredBy, Release, Setup
from ondine.core.timing.limits import flash_name
from ondine.core.timing.sequence import Sequence


class Kind(StrEnum):
    """What kinds of items there are."""

    DROP = "drop"
    FLASH = "flash"
    SHUTTER = "shutter"
    MIRROR = "mirror"
    HALF_PRESS = "half press"


CAMERA_FIELDS = {Kind.SHUTTER: "opens_us", Kind.MIRROR: "mirror_us", Kind.HALF_PRESS: "half_press_us"}
"""Where `CameraTimes` holds the time of an item."""


@dataclass(frozen=True, order=True)
class Item:
    """One drop or flash by its number from 0, or a command to the camera."""

    kind: Kind
    index: int = 0


FIRST_FLASH, SHUTTER = Item(Kind.FLASH), Item(Kind.SHUTTER)


def drop(index: int) -> Item:
    """Return the item of a drop, counted from 0."""
    return Item(Kind.DROP, index)


def flash(index: int) -> Item:
    """Return the item of a flash, counted from 0."""
    return Item(Kind.FLASH, index)


def items_of(sequence: Sequence, setup: Setup) -> tuple[Item, ...]:
    """Return all items that can be moved at a table: drops, flashes, and what of the camera it tells the time of."""
    drops = (drop(index) for index in range(len(sequence.drops)))
    flashes = (flash(index) for index in range(len(sequence.flashes)))
    camera = (Item(kind) for kind in CAMERA_FIELDS if has(sequence, Item(kind), setup))
    return (*drops, *flashes, *camera)


def has(sequence: Sequence, item: Item, setup: Setup) -> bool:
    """Whether a sequence has an item that can be moved."""
    if item.kind is Kind.DROP:
        return item.index < len(sequence.drops)
    if item.kind is Kind.FLASH:
        return item.index < len(sequence.flashes)
    if item.kind is Kind.SHUTTER:
        return times_shutter(setup)
    return own_time_us(sequence, item) is not None


def times_shutter(setup: Setup) -> bool:
    """Whether the shutter has a time of its own: not where it fires the flash, and not where a hand opens it."""
    triggers = setup.triggers
    return triggers.flash_fired_by is FlashFiredBy.CONTROLLER and triggers.release is not Release.HAND


def own_time_us(sequence: Sequence, item: Item) -> int | None:
    """Return the time that a sequence gives an item [µs]; None for a command to the camera that the table decides.

    Raises IndexError for a drop or a flash that is not there.
    """
    if item.kind is Kind.DROP:
        return sequence.drops[item.index].start_us
    if item.kind is Kind.FLASH:
        return sequence.flashes[item.index].at_us
    asked: int | None = getattr(sequence.camera, CAMERA_FIELDS[item.kind])
    return asked


def time_us(sequence: Sequence, item: Item, setup: Setup) -> int:
    """Return the time of an item from the trigger [µs]; of the shutter, if it has none, the table's lead before light.

    Raises IndexError for a drop or a flash that is not there.
    """
    own = own_time_us(sequence, item)
    if own is not None:
        return own
    return max(sequence.first_flash_us - round(setup.triggers.shutter_lead_s * US_PER_S), 0)


def name_of(sequence: Sequence, item: Item) -> str:
    """Call an item as people do."""
    if item.kind is Kind.DROP:
        return f"drop {item.index + 1}"
    if item.kind is Kind.FLASH:
        return flash_name(sequence, item.index).lower()
    return f"the {item.kind}"


def names_of(sequence: Sequence, items: frozenset[Item]) -> str:
    """Call several items: "drops 1, 2 and flash 1"."""
    drops = [str(item.index + 1) for item in sorted(items) if item.kind is Kind.DROP]
    found = [f"drop{'s' if len(drops) > 1 else ''} {', '.join(drops)}"] if drops else []
    found += [name_of(sequence, item) for item in sorted(items) if item.kind is not Kind.DROP]
    return " and ".join(filter(None, (", ".join(found[:-1]), found[-1]))) if found else "nothing"
