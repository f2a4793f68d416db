"""Whether a sequence may be fired at a table, now: asked while it is edited, and again before the valve opens."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ondine.core.constants import US_PER_S
from ondine.core.setup import Rig, Setup
from ondine.core.table.edit import EditError, check
from ondine.core.timing.sequence import Sequence, ms
from ondine.core.units import Units

DUTY_SPAN_S = 60.0
"""The share of time that a valve may be open holds over a minute: a solenoid takes about as long to warm through.

Common practice, no published source.
"""


@dataclass(frozen=True)
class ValveUse:
    """When the valve was opened of late: the end of each run on a clock that nobody sets, and its open time [s]."""

    runs: tuple[tuple[float, float], ...] = ()

    def after(self, now_s: float, open_s: float) -> ValveUse:
        """Return the use after one more run that has just ended; what is older than a minute is forgotten."""
        young = tuple(run for run in self.runs if run[0] > now_s - DUTY_SPAN_S)
        return ValveUse((*young, (now_s, open_s)))

    def rest_needed_s(self, now_s: float, open_s: float, rig: Rig) -> float:
        """Return how long the valve must rest before it may be open for `open_s` more [s]; infinite if never."""
        allowed = rig.max_duty * DUTY_SPAN_S + 1e-9
        if open_s > allowed:
            return math.inf
        young = [run for run in self.runs if run[0] > now_s - DUTY_SPAN_S]
        total = sum(run[1] for run in young)
        for ended_s, opened_s in young:
            if total + open_s <= allowed:
                return 0.0
            total -= opened_s
            if total + open_s <= allowed:
                return ended_s + DUTY_SPAN_S - now_s
        return 0.0


def open_s(sequence: Sequence) -> float:
    """Time that a sequence holds the valve open in all [s]."""
    return sum(pulse.open_us for pulse in sequence.drops) / US_PER_S


def problems(sequence: Sequence, setup: Setup, use: ValveUse | None = None, now_s: float = 0.0) -> tuple[str, ...]:
    """Return why a sequence must not be fired, each reason a sentence that says what to do; none if it may be.

    use, now_s : how much the valve was open in the last minute, and the time by the same clock [s].
    """
    found = [_too_long(number, pulse.open_us, setup.rig) for number, pulse in enumerate(sequence.drops, start=1)]
    found.append(_too_much(open_s(sequence), setup.rig, use or ValveUse(), now_s))
    try:
        check(setup, Units())
    except EditError as error:
        found.append(str(error))
    except ValueError as error:
        found.append(f"The table cannot stand so. {error}")
    return tuple(problem for problem in found if problem)


def pour_problems(
    open_us: int, pulses: int, period_us: int, setup: Setup, use: ValveUse, now_s: float
) -> tuple[str, ...]:
    """Return why pulses without light must not be given; none if they may be."""
    rig = setup.rig
    found = [_too_long(1, open_us, rig) if open_us > rig.max_open_us else ""]
    if open_us > rig.max_duty * period_us * (1 + 1e-6):
        found.append(
            f"The valve would be open {open_us / period_us:.0%} of the time, over its limit of {rig.max_duty:.0%}: "
            "space the pulses wider."
        )
    # At its steady share it may go on for ever; what was open before counts on top for the first minute.
    in_a_minute = min(pulses * open_us / US_PER_S, rig.max_duty * DUTY_SPAN_S)
    found.append(_too_much(in_a_minute, rig, use, now_s))
    return tuple(problem for problem in found if problem)


def _too_long(number: int, open_us: int, rig: Rig) -> str:
    if open_us <= rig.max_open_us:
        return ""
    return (
        f"Drop {number} opens for {ms(open_us)}, over the valve's limit of {ms(rig.max_open_us)}: shorten it, or it "
        "overheats and floods."
    )


def _too_much(more_s: float, rig: Rig, use: ValveUse, now_s: float) -> str:
    rest = use.rest_needed_s(now_s, more_s, rig)
    if rest <= 0:
        return ""
    limit = f"{rig.max_duty:.0%} of a minute"
    if math.isinf(rest):
        return f"The valve would be open for {more_s:.1f} s, more than {limit}: shorten the drops."
    return f"The valve was open much of the last minute; its limit is {limit}. Let it rest for {math.ceil(rest)} s."


def held(made: Sequence, before: Sequence, rig: Rig) -> Sequence:
    """Return an edited sequence with every opening that the edit changed held at the valve's limit."""
    if len(made.drops) != len(before.drops):
        return made
    drops = tuple(
        now if now.open_us == was.open_us else replace(now, open_us=min(now.open_us, rig.max_open_us))
        for now, was in zip(made.drops, before.drops, strict=True)
    )
    return replace(made, drops=drops)
