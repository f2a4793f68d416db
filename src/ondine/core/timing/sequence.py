"""What is commanded: one to four drops and one flash, in whole microseconds from the trigger."""

from __future__ import annotations

from dataclasses import dataclass, replace

MAX_DROPS = 4
MAX_TIME_US = 5_000_000
"""Five seconds: beyond it a sequence is a mistake of units."""

MIN_OPEN_US = 1_000
MIN_GAP_US = 1_000


class SequenceError(ValueError):
    """A sequence that cannot be, or must not be fired; `problems` says each reason in a sentence."""

    def __init__(self, problems: tuple[str, ...]) -> None:
        super().__init__(" ".join(problems))
        self.problems = problems


@dataclass(frozen=True)
class Pulse:
    """One opening of the valve: `start_us` from the trigger, `open_us` long."""

    start_us: int
    open_us: int

    @property
    def end_us(self) -> int:
        """When the valve is told to close."""
        return self.start_us + self.open_us


@dataclass(frozen=True)
class Sequence:
    """Drops in the order of their openings, and one flash at `flash_us` from the trigger.

    It knows nothing of a valve's limits: those are its rig's, and are asked for by `core.table.firing.problems`.
    Raises SequenceError for negative or overlong times, openings that overlap, and none or too many drops.
    """

    drops: tuple[Pulse, ...]
    flash_us: int

    def __post_init__(self) -> None:
        found = tuple(_problems(self))
        if found:
            raise SequenceError(found)

    @property
    def intervals_us(self) -> tuple[int, ...]:
        """From the start of each opening to the start of the next."""
        return tuple(b.start_us - a.start_us for a, b in zip(self.drops, self.drops[1:], strict=False))

    @property
    def gaps_us(self) -> tuple[int, ...]:
        """From each closing to the next opening."""
        return tuple(b.start_us - a.end_us for a, b in zip(self.drops, self.drops[1:], strict=False))

    def with_flash(self, flash_us: int) -> Sequence:
        """Return a copy with the flash moved, held inside the allowed span."""
        return replace(self, flash_us=min(max(flash_us, 0), MAX_TIME_US))

    def with_start(self, index: int, start_us: int) -> Sequence:
        """Return a copy with one drop moved, held between its neighbours."""
        pulse = self.drops[index]
        earliest = self.drops[index - 1].end_us + MIN_GAP_US if index else 0
        last = index == len(self.drops) - 1
        latest = (MAX_TIME_US if last else self.drops[index + 1].start_us - MIN_GAP_US) - pulse.open_us
        return self._replaced(index, replace(pulse, start_us=max(earliest, min(start_us, latest))))

    def with_open(self, index: int, open_us: int) -> Sequence:
        """Return a copy with one opening's length changed, held clear of the next drop."""
        pulse = self.drops[index]
        last = index == len(self.drops) - 1
        room = (MAX_TIME_US if last else self.drops[index + 1].start_us - MIN_GAP_US) - pulse.start_us
        return self._replaced(index, replace(pulse, open_us=max(MIN_OPEN_US, min(open_us, room))))

    def with_interval(self, index: int, interval_us: int) -> Sequence:
        """Return a copy in which drop `index + 1` and all later ones move so that this interval results."""
        least = self.drops[index].open_us + MIN_GAP_US
        room = MAX_TIME_US - self.drops[-1].end_us
        shift = min(max(interval_us, least) - self.intervals_us[index], room)
        moved = tuple(replace(p, start_us=p.start_us + shift) for p in self.drops[index + 1 :])
        return replace(self, drops=self.drops[: index + 1] + moved)

    def with_drop_added(self) -> Sequence:
        """Return a copy with one more drop like the last one, as far after it as it is after its own forerunner.

        Raises SequenceError when there are four already.
        """
        last = self.drops[-1]
        interval = self.intervals_us[-1] if self.intervals_us else max(90_000, 3 * last.open_us)
        return replace(self, drops=(*self.drops, replace(last, start_us=last.start_us + interval)))

    def without_drop(self, index: int) -> Sequence:
        """Return a copy without one drop. Raises SequenceError when it is the only one."""
        return replace(self, drops=self.drops[:index] + self.drops[index + 1 :])

    def _replaced(self, index: int, pulse: Pulse) -> Sequence:
        return replace(self, drops=(*self.drops[:index], pulse, *self.drops[index + 1 :]))


def _problems(sequence: Sequence) -> list[str]:
    found = []
    if not 1 <= len(sequence.drops) <= MAX_DROPS:
        found.append(f"A sequence has 1 to {MAX_DROPS} drops, not {len(sequence.drops)}.")
    if not 0 <= sequence.flash_us <= MAX_TIME_US:
        found.append(_outside("The flash", sequence.flash_us))
    for number, pulse in enumerate(sequence.drops, start=1):
        if not 0 <= pulse.start_us <= MAX_TIME_US:
            found.append(_outside(f"Drop {number}", pulse.start_us))
        if pulse.open_us > MAX_TIME_US:
            found.append(f"Drop {number} opens for {ms(pulse.open_us)}: give at most {ms(MAX_TIME_US)}.")
        if pulse.open_us < MIN_OPEN_US:
            found.append(f"Drop {number} opens for {ms(pulse.open_us)}: give at least {ms(MIN_OPEN_US)}.")
    for number, gap in enumerate(sequence.gaps_us, start=1):
        if gap < MIN_GAP_US:
            found.append(
                f"Drop {number + 1} opens before drop {number} has closed for {ms(MIN_GAP_US)}: "
                f"start it at {ms(sequence.drops[number - 1].end_us + MIN_GAP_US)} or later."
            )
    return found


def _outside(what: str, time_us: int) -> str:
    return f"{what} is at {ms(time_us)}: give a time from 0 to {ms(MAX_TIME_US)} after the trigger."


def ms(time_us: int) -> str:
    """Write a time of a sequence as milliseconds, without idle zeros."""
    return f"{time_us / 1000:g} ms"
