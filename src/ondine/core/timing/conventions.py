"""What the times of a sequence are counted from: the same sequence can be told in many ways, and fires the same."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum

from ondine.core.setup import Counts, FlashFrom
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence


class LightFrom(StrEnum):
    """What flashes are counted from: as a box can, and two that follow the forecast of the drops."""

    TRIGGER = FlashFrom.TRIGGER.value
    FIRST_OPENING = FlashFrom.FIRST_OPENING.value
    LAST_OPENING = FlashFrom.LAST_OPENING.value
    LAST_CLOSING = FlashFrom.LAST_CLOSING.value
    TOUCHDOWN = "the predicted touchdown"
    MEETING = "the predicted meeting"


@dataclass(frozen=True)
class Convention:
    """How waits and flashes are counted."""

    counts: Counts = Counts.ABSOLUTE
    light_from: LightFrom = LightFrom.TRIGGER


CONVENTIONS = tuple(Convention(counts, light_from) for counts in Counts for light_from in LightFrom)


class ConventionError(ValueError):
    """A sequence that a convention cannot tell; the text says why, and what can."""


@dataclass(frozen=True)
class Landmarks:
    """When the first drop lands and when the first one meets something, as predicted [µs]; None where none does."""

    touchdown_us: int | None = None
    meeting_us: int | None = None


Predicts = Callable[[tuple[Pulse, ...]], Landmarks]
"""Tells the landmarks of drops. Flashes do not move them."""


def nothing_predicted(_: tuple[Pulse, ...]) -> Landmarks:
    """Tell no landmarks: there is no table to predict for."""
    return Landmarks()


@dataclass(frozen=True)
class Told:
    """A sequence in numbers of a convention, in the order of its times [µs]: a wait for each drop, a delay for each
    flash.
    """

    waits_us: tuple[int, ...]
    delays_us: tuple[int, ...]


def tell(sequence: Sequence, convention: Convention, predicts: Predicts = nothing_predicted) -> Told:
    """Return the numbers that tell an ordered sequence. Raises ConventionError where the forecast is asked in vain."""
    drops = sequence.drops
    waits = (pulse.start_us - wait_base_us(drops[:n], convention.counts) for n, pulse in enumerate(drops))
    base = light_base_us(drops, convention.light_from, predicts)
    return Told(tuple(waits), tuple(flash.at_us - base for flash in sequence.flashes))


def drops_of(told: Iterable[tuple[int, int, int]], counts: Counts) -> tuple[Pulse, ...]:
    """Return the drops that are told by a wait and an open time [µs], and a valve from 0 each."""
    made: list[Pulse] = []
    for wait_us, open_us, valve in told:
        made.append(Pulse(wait_base_us(made, counts) + wait_us, open_us, valve))
    return tuple(made)


def flashes_of(
    told: Iterable[tuple[int, int]],
    drops: tuple[Pulse, ...],
    light_from: LightFrom,
    predicts: Predicts = nothing_predicted,
) -> tuple[FlashPulse, ...]:
    """Return the flashes that are told by a delay [µs] and an output from 0 each. Raises ConventionError."""
    base = light_base_us(drops, light_from, predicts)
    return tuple(FlashPulse(base + delay_us, output) for delay_us, output in told)


def wait_base_us(before: list[Pulse] | tuple[Pulse, ...], counts: Counts) -> int:
    """What the next drop's wait is counted from, after the drops before it [µs]; the first counts from the trigger."""
    if counts is Counts.ABSOLUTE or not before:
        return 0
    return before[-1].start_us if counts is Counts.START_TO_START else before[-1].end_us


def light_base_us(
    drops: list[Pulse] | tuple[Pulse, ...], light_from: LightFrom, predicts: Predicts = nothing_predicted
) -> int:
    """What flashes are counted from [µs]. Raises ConventionError where the forecast foresees no such thing."""
    match light_from:
        case LightFrom.TRIGGER:
            return 0
        case LightFrom.FIRST_OPENING:
            return min(pulse.start_us for pulse in drops)
        case LightFrom.LAST_OPENING:
            return max(pulse.start_us for pulse in drops)
        case LightFrom.LAST_CLOSING:
            return max(pulse.end_us for pulse in drops)
    landmarks = predicts(tuple(drops))
    found = landmarks.touchdown_us if light_from is LightFrom.TOUCHDOWN else landmarks.meeting_us
    if found is None:
        noun = light_from.removeprefix("the predicted ")
        raise ConventionError(
            f"No {noun} is predicted for these drops, so nothing can be counted from it: count from the trigger."
        )
    return found


def wait_us(sequence: Sequence, index: int, counts: Counts) -> int:
    """Return what a drop's wait is, counted from the drop before it in number [µs]."""
    return sequence.drops[index].start_us - wait_base_us(sequence.drops[:index], counts)


def with_wait(sequence: Sequence, index: int, told_us: int, counts: Counts) -> Sequence:
    """Return a copy in which a drop has this wait [µs]; later ones keep theirs, and move along."""
    start_us = wait_base_us(sequence.drops[:index], counts) + told_us
    if counts is Counts.ABSOLUTE or index == 0:
        return sequence.with_start(index, start_us)
    return sequence.with_interval(index - 1, start_us - sequence.drops[index - 1].start_us)
