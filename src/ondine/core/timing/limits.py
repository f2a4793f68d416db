"""What no table can fire: too many or too few of anything, times out of their span, openings that overlap."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ondine.core.setup.whole import MOST_PARTS
from ondine.core.timing.sequence import MAX_TIME_US, MIN_GAP_US, MIN_OPEN_US, Sequence, ms

MAX_DROPS, MAX_FLASHES = 8, 4


@dataclass(frozen=True)
class Outputs:
    """How many valves and flashes a controller can drive each by itself."""

    valves: int = 4
    flashes: int = 4


class SequenceError(ValueError):
    """A sequence that must not be fired; `problems` says each reason in a sentence."""

    def __init__(self, problems: tuple[str, ...]) -> None:
        super().__init__(" ".join(problems))
        self.problems = problems


@dataclass(frozen=True)
class Problem:
    """Why a sequence must not be fired, in a sentence; and where: numbers of drops and flashes from 0, the camera."""

    says: str
    drops: tuple[int, ...] = ()
    flashes: tuple[int, ...] = ()
    camera: bool = False


def timing_problems(sequence: Sequence) -> Iterator[Problem]:
    """Yield what is wrong with the times alone, on any table."""
    if not 1 <= len(sequence.drops) <= MAX_DROPS:
        yield Problem(f"A sequence has 1 to {MAX_DROPS} drops, not {len(sequence.drops)}.")
    if not 1 <= len(sequence.flashes) <= MAX_FLASHES:
        yield Problem(f"A sequence has 1 to {MAX_FLASHES} flashes, not {len(sequence.flashes)}.")
    for index, flash in enumerate(sequence.flashes):
        if not 0 <= flash.at_us <= MAX_TIME_US:
            yield Problem(_outside(flash_name(sequence, index), flash.at_us), flashes=(index,))
    yield from _pulse_problems(sequence)
    yield from _overlaps(sequence)
    camera = sequence.camera
    for what, time_us in (
        ("The shutter", camera.opens_us),
        ("The mirror", camera.mirror_us),
        ("The half press", camera.half_press_us),
    ):
        if time_us is not None and not 0 <= time_us <= MAX_TIME_US:
            yield Problem(_outside(what, time_us), camera=True)


def is_within_span(sequence: Sequence) -> bool:
    """Whether hands or files can have made it: it has drops and flashes, not too many, and their times, valves
    and outputs are no slips.
    """
    camera = sequence.camera
    times = [
        *(time for pulse in sequence.drops for time in (pulse.start_us, pulse.open_us)),
        *(flash.at_us for flash in sequence.flashes),
        *(time for time in (camera.opens_us, camera.mirror_us, camera.half_press_us) if time is not None),
    ]
    counted = 1 <= len(sequence.drops) <= MAX_DROPS and 1 <= len(sequence.flashes) <= MAX_FLASHES
    numbers = [*(pulse.valve for pulse in sequence.drops), *(flash.output for flash in sequence.flashes)]
    return (
        counted
        and all(0 <= number <= MOST_PARTS for number in numbers)
        and all(0 <= time <= MAX_TIME_US for time in times)
    )


def flash_name(sequence: Sequence, index: int) -> str:
    """Call a flash at the beginning of a sentence, by its number where there are several."""
    return "The flash" if len(sequence.flashes) == 1 else f"Flash {index + 1}"


def flash_label(sequence: Sequence, index: int) -> str:
    """Call a flash in a word, by its number where there are several."""
    return "flash" if len(sequence.flashes) == 1 else f"flash {index + 1}"


def _pulse_problems(sequence: Sequence) -> Iterator[Problem]:
    for index, pulse in enumerate(sequence.drops):
        name, here = f"Drop {index + 1}", (index,)
        if not 0 <= pulse.start_us <= MAX_TIME_US:
            yield Problem(_outside(name, pulse.start_us), here)
        if pulse.open_us > MAX_TIME_US:
            yield Problem(f"{name} opens for {ms(pulse.open_us)}: give at most {ms(MAX_TIME_US)}.", here)
        if pulse.open_us < MIN_OPEN_US:
            yield Problem(f"{name} opens for {ms(pulse.open_us)}: give at least {ms(MIN_OPEN_US)}.", here)


def _overlaps(sequence: Sequence) -> Iterator[Problem]:
    for index, pulse in enumerate(sequence.drops):
        before = sequence.before_on_valve(index)
        if before is None:
            continue
        free_us = sequence.drops[before].end_us + MIN_GAP_US
        if pulse.start_us < free_us:
            yield Problem(
                f"Drop {index + 1} opens before drop {before + 1} has closed for {ms(MIN_GAP_US)}: "
                f"start it at {ms(free_us)} or later.",
                (before, index),
            )


def _outside(what: str, time_us: int) -> str:
    return f"{what} is at {ms(time_us)}: give a time from 0 to {ms(MAX_TIME_US)} after the trigger."
