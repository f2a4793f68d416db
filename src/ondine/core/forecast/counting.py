"""The times of a sequence as a photographer counts them, with what is counted from foreseen where it must be."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.forecast.prediction import Prediction
from ondine.core.timing.conventions import (
    Convention,
    ConventionError,
    LightFrom,
    light_base_us,
    wait_base_us,
    wait_us,
    with_wait,
)
from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Counting:
    """A convention at work on one sequence.

    light_from : what flashes are really counted from: the trigger, where what was asked for is not foreseen; base_us :
    when that is [µs from the trigger]; says : why it is another, or nothing.
    """

    convention: Convention
    light_from: LightFrom
    base_us: int = 0
    says: str = ""

    @staticmethod
    def of(convention: Convention, prediction: Prediction) -> Counting:
        """Return how a foreseen sequence is counted."""
        try:
            base_us = light_base_us(
                prediction.sequence.drops, convention.light_from, lambda _: prediction.course.landmarks
            )
        except ConventionError as error:
            return Counting(convention, LightFrom.TRIGGER, 0, str(error))
        return Counting(convention, convention.light_from, base_us)

    def wait_base_us(self, sequence: Sequence, index: int) -> int:
        """Return what a drop's wait is counted from [µs from the trigger]."""
        return wait_base_us(sequence.drops[:index], self.convention.counts)

    def wait_us(self, sequence: Sequence, index: int) -> int:
        """Return a drop's wait [µs]."""
        return wait_us(sequence, index, self.convention.counts)

    def with_wait(self, sequence: Sequence, index: int, told_us: int) -> Sequence:
        """Return a copy in which a drop has this wait [µs]."""
        return with_wait(sequence, index, told_us, self.convention.counts)

    def delay_us(self, sequence: Sequence, index: int) -> int:
        """Return a flash's delay [µs]."""
        return sequence.flashes[index].at_us - self.base_us

    def with_delay(self, sequence: Sequence, index: int, told_us: int) -> Sequence:
        """Return a copy in which a flash has this delay [µs], counted from where it was counted when it was told."""
        return sequence.with_flash(index, self.base_us + told_us)

    def tells(self, at_us: int) -> str:
        """Write the time of a flash: from the trigger alone, from anything else with what it is."""
        words = f"{(at_us - self.base_us) / 1000:.1f} ms"
        return words if self.light_from is LightFrom.TRIGGER else f"{words} from {self.light_from}"


def bare(light_from: LightFrom) -> str:
    """Return what flashes are counted from in a word or two, for where there is little room."""
    return light_from.removeprefix("the ").removeprefix("predicted ")
