"""What a hand does to several items of a sequence at once: move, lengthen, take out, copy, put in."""

from __future__ import annotations

from dataclasses import replace

from ondine.core.setup import Setup
from ondine.core.timing.items import CAMERA_FIELDS, SHUTTER, Item, Kind, drop, flash, time_us
from ondine.core.timing.limits import MAX_DROPS, MAX_FLASHES
from ondine.core.timing.sequence import MAX_TIME_US, MIN_GAP_US, Sequence, held

Items = frozenset[Item]


class ArrangeError(ValueError):
    """What cannot be put into a sequence; the text says why."""


def moved(sequence: Sequence, items: Items, later_us: int, setup: Setup) -> Sequence:
    """Return a copy in which items are later by as much as all of them can be.

    Each is held inside the allowed span, and each drop between the drops of its valve that stay; how the items lie to
    each other does not change. A shutter that keeps the table's lead keeps it while flashes move with it.
    """
    if sequence.camera.opens_us is None and any(item.kind is Kind.FLASH for item in items):
        items = items - {SHUTTER}
    earliest, latest = -MAX_TIME_US, MAX_TIME_US
    for item in items:
        low, high = _room(sequence, item, items, setup)
        # What already stands where it must not is let out, and never pushed against the hand.
        earliest, latest = max(earliest, min(low, 0)), min(latest, max(high, 0))
    shift = max(earliest, min(later_us, latest))
    wanted = {item: time_us(sequence, item, setup) + shift for item in items}
    for item, at_us in wanted.items():
        sequence = placed(sequence, item, at_us)
    return sequence


def _room(sequence: Sequence, item: Item, items: Items, setup: Setup) -> tuple[int, int]:
    """How much an item can be moved, least and most [µs]."""
    start_us = time_us(sequence, item, setup)
    if item.kind is not Kind.DROP:
        return -start_us, MAX_TIME_US - start_us
    pulse = sequence.drops[item.index]
    low, high = 0, MAX_TIME_US
    for index, other in enumerate(sequence.drops):
        if other.valve != pulse.valve or drop(index) in items:
            continue
        if (other.start_us, index) < (pulse.start_us, item.index):
            low = max(low, other.end_us + MIN_GAP_US)
        else:
            high = min(high, other.start_us - MIN_GAP_US)
    return low - start_us, high - pulse.end_us


def placed(sequence: Sequence, item: Item, at_us: int) -> Sequence:
    """Return a copy with one item at a time, as it is given."""
    if item.kind is Kind.DROP:
        return sequence.with_pulse(item.index, replace(sequence.drops[item.index], start_us=at_us))
    if item.kind is Kind.FLASH:
        lit = replace(sequence.flashes[item.index], at_us=at_us)
        return replace(sequence, flashes=(*sequence.flashes[: item.index], lit, *sequence.flashes[item.index + 1 :]))
    return with_camera(sequence, item.kind, at_us)


def with_camera(sequence: Sequence, kind: Kind, at_us: int | None) -> Sequence:
    """Return a copy with the time of a command to the camera, None for as the table says."""
    camera = replace(sequence.camera, **{CAMERA_FIELDS[kind]: None if at_us is None else held(at_us)})
    return replace(sequence, camera=camera)


def lengthened(sequence: Sequence, items: Items, longer_us: int) -> Sequence:
    """Return a copy in which the openings of some drops are longer, each held clear of its valve's next drop."""
    for item in sorted(items):
        if item.kind is Kind.DROP:
            sequence = sequence.with_open(item.index, sequence.drops[item.index].open_us + longer_us)
    return sequence


def removed(sequence: Sequence, items: Items) -> tuple[Sequence, Items]:
    """Return a copy without items, and which were taken out: one drop and one flash stay if all of a kind would go.

    What the camera was told goes back to what the table says.
    """
    everything = frozenset((*map(drop, range(len(sequence.drops))), *map(flash, range(len(sequence.flashes)))))
    gone = items - frozenset(one for one in (drop(0), flash(0)) if _of_kind(everything, one.kind) <= items)
    drops = tuple(pulse for index, pulse in enumerate(sequence.drops) if drop(index) not in gone)
    flashes = tuple(lit for index, lit in enumerate(sequence.flashes) if flash(index) not in gone)
    made = replace(sequence, drops=drops, flashes=flashes)
    for item in gone:
        if item.kind in CAMERA_FIELDS:
            made = with_camera(made, item.kind, None)
    return made, gone


def _of_kind(items: Items, kind: Kind) -> Items:
    return frozenset(item for item in items if item.kind is kind)


def part_of(sequence: Sequence, items: Items) -> Sequence:
    """Return drops and flashes of a sequence alone, the earliest of them at 0."""
    drops = [pulse for index, pulse in enumerate(sequence.drops) if drop(index) in items]
    flashes = [lit for index, lit in enumerate(sequence.flashes) if flash(index) in items]
    part = Sequence(tuple(drops), tuple(flashes))
    return _later(part, -_earliest_us(part))


def added(sequence: Sequence, part: Sequence, at_us: int) -> tuple[Sequence, Items]:
    """Return a copy with the drops and flashes of a part put in, its earliest at a time, and what they are there.

    Raises ArrangeError where it would be too many, or too late.
    """
    drops, flashes = len(sequence.drops), len(sequence.flashes)
    for count, most, noun in (
        (drops + len(part.drops), MAX_DROPS, "drops"),
        (flashes + len(part.flashes), MAX_FLASHES, "flashes"),
    ):
        if count > most:
            raise ArrangeError(f"That would be {count} {noun}, and a sequence has at most {most}. Remove some first.")
    placed = _later(part, max(at_us, 0) - _earliest_us(part))
    if placed.end_us > MAX_TIME_US:
        raise ArrangeError("That would end later than five seconds after the trigger. Put it in earlier.")
    made = replace(sequence, drops=sequence.drops + placed.drops, flashes=sequence.flashes + placed.flashes)
    new_drops = (drop(drops + index) for index in range(len(part.drops)))
    return made, frozenset((*new_drops, *(flash(flashes + index) for index in range(len(part.flashes)))))


def _earliest_us(part: Sequence) -> int:
    return min((*(p.start_us for p in part.drops), *(lit.at_us for lit in part.flashes)), default=0)


def _later(part: Sequence, shift_us: int) -> Sequence:
    drops = tuple(replace(pulse, start_us=pulse.start_us + shift_us) for pulse in part.drops)
    flashes = tuple(replace(lit, at_us=lit.at_us + shift_us) for lit in part.flashes)
    return replace(part, drops=drops, flashes=flashes)
