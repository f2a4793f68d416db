"""The instants of a sequence and its forecast that another item can be put on."""

from __future__ import annotations

from ondine.core.constants import US_PER_S
from ondine.core.forecast.events import Event
from ondine.core.forecast.landmarks import LEAST_SHARE
from ondine.core.timing.items import Item, Kind, drop, flash, name_of
from ondine.core.timing.sequence import Sequence
from ondine.core.timing.snapping import Mark

FINEST_US = 100
"""Marks lie on tenths of a millisecond, as hands set times."""


def marks_of(sequence: Sequence, events: list[Event], moving: frozenset[Item]) -> list[Mark]:
    """Return what a hand that moves some items can put them on: what stays where it is while they move.

    Events of the forecast that most rigs show, as long as no drop that moves decides them; openings,
    closings and flashes of the others.
    """
    found = []
    first = min((item.index for item in moving if item.kind is Kind.DROP), default=len(sequence.drops))
    for event in events:
        if event.probability >= LEAST_SHARE and event.drop <= first:
            at_us = round(event.time_s.mean * US_PER_S / FINEST_US) * FINEST_US
            found.append(Mark(at_us, f"{event.kind}, drop {event.drop}"))
    for index, pulse in enumerate(sequence.drops):
        if drop(index) not in moving:
            found.append(Mark(pulse.start_us, f"drop {index + 1} opens"))
            found.append(Mark(pulse.end_us, f"drop {index + 1} closes"))
    for index, lit in enumerate(sequence.flashes):
        if flash(index) not in moving:
            found.append(Mark(lit.at_us, name_of(sequence, flash(index))))
    return sorted(found, key=lambda mark: mark.at_us)
