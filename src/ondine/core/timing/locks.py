"""Locks: an item of a sequence that keeps its distance to another event, whatever a hand does to that one.

A lock follows: where its event moves, its item moves as much. Where a hand moves the item itself, the lock keeps the
new distance from then on.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial

from ondine.core.setup import Setup
from ondine.core.timing.arrange import placed
from ondine.core.timing.conventions import Landmarks, Predicts
from ondine.core.timing.items import Item, Kind, drop, own_time_us, time_us
from ondine.core.timing.sequence import Sequence, held


class Follows(StrEnum):
    """What an item keeps its distance to."""

    CLOSING = "the closing of the drop before"
    TOUCHDOWN = "the predicted touchdown"
    MEETING = "the predicted meeting"
    FIRST_FLASH = "the first flash"


LOCKS_OF = {
    Kind.DROP: (Follows.CLOSING,),
    Kind.FLASH: (Follows.MEETING, Follows.TOUCHDOWN),
    Kind.SHUTTER: (Follows.FIRST_FLASH,),
    Kind.MIRROR: (Follows.FIRST_FLASH,),
    Kind.HALF_PRESS: (Follows.FIRST_FLASH,),
}
"""What each kind of item can keep its distance to, the usual one first."""


@dataclass(frozen=True, order=True)
class Lock:
    """An item stands `offset_us` after an event; before it where that is negative."""

    item: Item
    follows: Follows
    offset_us: int


Locks = tuple[Lock, ...]


def lock_of(locks: Locks, item: Item) -> Lock | None:
    """Return the lock of an item; None if it has none."""
    return next((lock for lock in locks if lock.item == item), None)


def without_lock(locks: Locks, item: Item) -> Locks:
    """Return all locks but that of an item."""
    return tuple(lock for lock in locks if lock.item != item)


def locked(
    locks: Locks, sequence: Sequence, item: Item, follows: Follows, setup: Setup, predicts: Predicts
) -> Locks | None:
    """Return the locks with one more, at the distance that there is now; None where its event is not there."""
    event_us = _event_us(sequence, item, follows, partial(predicts, sequence.drops))
    if event_us is None:
        return None
    made = Lock(item, follows, time_us(sequence, item, setup) - event_us)
    return tuple(sorted((*without_lock(locks, item), made)))


def kept(made: Sequence, before: Sequence, locks: Locks, setup: Setup, predicts: Predicts) -> tuple[Sequence, Locks]:
    """Return an edited sequence in which every lock holds, and the locks as they hold from now on.

    made, before : as the hand wants it, and as it was; both with the same drops and flashes.
    """
    found: list[Lock] = []
    for lock in locks:
        # In the order of the items: drops, each after the one before, then flashes, then what follows the light.
        event_us = _event_us(made, lock.item, lock.follows, partial(predicts, made.drops))
        by_hand = own_time_us(made, lock.item) != own_time_us(before, lock.item)
        if event_us is None:
            found.append(lock)
        elif by_hand:
            found.append(replace(lock, offset_us=time_us(made, lock.item, setup) - event_us))
        else:
            found.append(lock)
            made = placed(made, lock.item, held(event_us + lock.offset_us))
    return made, tuple(found)


def renewed(locks: Locks, sequence: Sequence, setup: Setup, predicts: Predicts, gone: frozenset[Item]) -> Locks:
    """Return the locks after items were taken out: each at the distance that it has now, so that nothing moves."""
    found: Locks = ()
    for lock in locks:
        if lock.item in gone:
            continue
        before = sum(item.kind is lock.item.kind and item.index < lock.item.index for item in gone)
        item = replace(lock.item, index=lock.item.index - before)
        found = locked(found, sequence, item, lock.follows, setup, predicts) or found
    return found


def _event_us(
    sequence: Sequence, item: Item, follows: Follows, landmarks: Callable[[], Landmarks]
) -> int | None:  # fmt: skip
    """When the event is that an item keeps its distance to [µs]; None where there is none."""
    match follows:
        case Follows.CLOSING:
            return sequence.drops[item.index - 1].end_us if 0 < item.index < len(sequence.drops) else None
        case Follows.FIRST_FLASH:
            return sequence.first_flash_us if sequence.flashes else None
        case Follows.TOUCHDOWN:
            return landmarks().touchdown_us
    return landmarks().meeting_us


def holding(locks: Locks, sequence: Sequence) -> Locks:
    """Return the locks whose items a sequence has, in the order in which they follow each other."""
    found = {
        lock.item: lock for lock in locks if lock.follows in LOCKS_OF[lock.item.kind] and _is_there(sequence, lock.item)
    }
    return tuple(sorted(found.values()))


def _is_there(sequence: Sequence, item: Item) -> bool:
    counts = {Kind.DROP: len(sequence.drops), Kind.FLASH: len(sequence.flashes)}
    return 0 <= item.index < counts.get(item.kind, 1)


def with_followers(items: frozenset[Item], locks: Locks) -> frozenset[Item]:
    """Return items and every drop that follows one of them, so that a hand moves them as one."""
    found = set(items)
    for lock in locks:
        if lock.follows is Follows.CLOSING and drop(lock.item.index - 1) in found:
            found.add(lock.item)
    return frozenset(found)
