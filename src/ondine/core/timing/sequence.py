"""What is commanded: drops from one or more valves, flashes, and the camera, in whole microseconds from the trigger.

A value says what it is, not whether it may be fired: any sequence of the past can be read and shown. What must not be
fired, and why, is asked for by `core.table.firing.problems`.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

MAX_TIME_US = 5_000_000
"""Five seconds: beyond it a sequence is a mistake of units."""

MIN_OPEN_US = 1_000
MIN_GAP_US = 1_000


@dataclass(frozen=True)
class Pulse:
    """One opening of a valve: `start_us` from the trigger, `open_us` long; `valve` counts the table's valves from 0."""

    start_us: int
    open_us: int
    valve: int = 0

    @property
    def end_us(self) -> int:
        """When the valve is told to close."""
        return self.start_us + self.open_us


@dataclass(frozen=True)
class FlashPulse:
    """One flash: its light is wanted `at_us` from the trigger; `output` counts the controller's outputs from 0."""

    at_us: int
    output: int = 0


@dataclass(frozen=True)
class CameraTimes:
    """When the camera is asked for what, from the trigger.

    `opens_us` : the shutter shall stand open; None: the table's lead before the first flash.
    `mirror_us`, `half_press_us` : the mirror is sent up, the release is half pressed; None: not by the controller.
    """

    opens_us: int | None = None
    mirror_us: int | None = None
    half_press_us: int | None = None


@dataclass(frozen=True)
class Sequence:
    """Drops and flashes as they are numbered on the table: usually, but not always, in the order of their times."""

    drops: tuple[Pulse, ...]
    flashes: tuple[FlashPulse, ...]
    camera: CameraTimes = CameraTimes()

    @classmethod
    def with_one_flash(cls, drops: tuple[Pulse, ...], at_us: int) -> Sequence:
        """Return drops and a single flash on the first output."""
        return cls(drops, (FlashPulse(at_us),))

    @property
    def first_flash_us(self) -> int:
        """When the earliest light is wanted; 0 if there is none."""
        return min((flash.at_us for flash in self.flashes), default=0)

    @property
    def last_flash_us(self) -> int:
        """When the latest light is wanted; 0 if there is none."""
        return max((flash.at_us for flash in self.flashes), default=0)

    @property
    def first_opening_us(self) -> int:
        """When the first valve opens; 0 if none does."""
        return min((pulse.start_us for pulse in self.drops), default=0)

    @property
    def last_closing_us(self) -> int:
        """When the last valve closes; 0 if none opens."""
        return max((pulse.end_us for pulse in self.drops), default=0)

    @property
    def end_us(self) -> int:
        """When the last of its drops and flashes is over."""
        return max(self.last_flash_us, self.last_closing_us)

    @property
    def intervals_us(self) -> tuple[int, ...]:
        """From the start of each opening to the start of the next in number."""
        return tuple(b.start_us - a.start_us for a, b in zip(self.drops, self.drops[1:], strict=False))

    def before_on_valve(self, index: int) -> int | None:
        """Return the number of the pulse that the same valve makes just before this one; None if it is the first."""
        return self._neighbour(index, -1)

    def after_on_valve(self, index: int) -> int | None:
        """Return the number of the pulse that the same valve makes just after this one; None if it is the last."""
        return self._neighbour(index, 1)

    def _neighbour(self, index: int, way: int) -> int | None:
        valve = self.drops[index].valve
        on_it = sorted(
            (i for i, pulse in enumerate(self.drops) if pulse.valve == valve),
            key=lambda i: (self.drops[i].start_us, i),
        )
        place = on_it.index(index) + way
        return on_it[place] if 0 <= place < len(on_it) else None

    def ordered(self) -> Sequence:
        """Return the same sequence with drops and flashes numbered in the order of their times."""
        drops = sorted(self.drops, key=lambda pulse: (pulse.start_us, pulse.valve, pulse.open_us))
        flashes = sorted(self.flashes, key=lambda flash: (flash.at_us, flash.output))
        return replace(self, drops=tuple(drops), flashes=tuple(flashes))

    # Changes by hand, held where a neighbour or the span of times holds

    def with_flash(self, index: int, at_us: int) -> Sequence:
        """Return a copy with one flash moved, held inside the allowed span."""
        moved = replace(self.flashes[index], at_us=held(at_us))
        return replace(self, flashes=(*self.flashes[:index], moved, *self.flashes[index + 1 :]))

    def with_start(self, index: int, start_us: int) -> Sequence:
        """Return a copy with one drop moved, held between the same valve's other drops."""
        pulse = self.drops[index]
        before, after = self.before_on_valve(index), self.after_on_valve(index)
        earliest = 0 if before is None else self.drops[before].end_us + MIN_GAP_US
        latest = (MAX_TIME_US if after is None else self.drops[after].start_us - MIN_GAP_US) - pulse.open_us
        return self.with_pulse(index, replace(pulse, start_us=max(earliest, min(start_us, latest))))

    def with_open(self, index: int, open_us: int) -> Sequence:
        """Return a copy with one opening's length changed, held clear of the same valve's next drop."""
        pulse, after = self.drops[index], self.after_on_valve(index)
        room = (MAX_TIME_US if after is None else self.drops[after].start_us - MIN_GAP_US) - pulse.start_us
        return self.with_pulse(index, replace(pulse, open_us=max(MIN_OPEN_US, min(open_us, room))))

    def with_interval(self, index: int, interval_us: int) -> Sequence:
        """Return a copy in which drop `index + 1` and all later ones move so that this interval results."""
        later = range(index + 1, len(self.drops))
        room = MAX_TIME_US - max(self.drops[i].end_us for i in later)
        shift = min(interval_us - self.intervals_us[index], room)
        for i in later:
            before = self.before_on_valve(i)
            least = 0 if before is None else self.drops[before].end_us + MIN_GAP_US
            if before is None or before <= index:
                shift = max(shift, least - self.drops[i].start_us)
        moved = tuple(replace(p, start_us=p.start_us + shift) for p in self.drops[index + 1 :])
        return replace(self, drops=self.drops[: index + 1] + moved)

    def with_drop_added(self) -> Sequence:
        """Return a copy with one more drop like the last one, as far after it as it is after its own forerunner."""
        last = self.drops[-1]
        least = last.open_us + MIN_GAP_US
        interval = max(self.intervals_us[-1], least) if self.intervals_us else max(90_000, 3 * last.open_us)
        return replace(self, drops=(*self.drops, replace(last, start_us=last.start_us + interval)))

    def with_flash_added(self, at_us: int, output: int) -> Sequence:
        """Return a copy with one more flash."""
        return replace(self, flashes=(*self.flashes, FlashPulse(at_us, output)))

    def with_pulse(self, index: int, pulse: Pulse) -> Sequence:
        """Return a copy with one pulse replaced, as it is given."""
        return replace(self, drops=(*self.drops[:index], pulse, *self.drops[index + 1 :]))


def held(time_us: int) -> int:
    """Return a time held inside the span that sequences may have [µs]."""
    return min(max(time_us, 0), MAX_TIME_US)


def ms(time_us: int) -> str:
    """Write a time of a sequence as milliseconds, without idle zeros."""
    return f"{time_us / 1000:g} ms"
