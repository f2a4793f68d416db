"""Whether a sequence may be fired at a table, now: asked while it is edited, and again before the valve opens."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from ondine.core.constants import US_PER_S
from ondine.core.forecast.lit import lit
from ondine.core.light.recycle import recycle_s
from ondine.core.physics import drop
from ondine.core.physics.liquid import DROP_AGE_S
from ondine.core.setup import Setup, Valve
from ondine.core.table.edit import EditError, check
from ondine.core.timing.dials import dialled
from ondine.core.timing.latency import HAND_FIRES, latency
from ondine.core.timing.limits import Outputs, Problem, SequenceError, flash_name, timing_problems
from ondine.core.timing.sequence import MIN_GAP_US, Pulse, Sequence, ms
from ondine.core.units import Units

DUTY_SPAN_S = 60.0
"""The share of time that a valve may be open holds over a minute: a solenoid takes about as long to warm through.

Common practice, no published source.
"""


CERTAIN_MERGE_RATIO = 0.2
"""Gap over capillary time below which two drops leave every valve as one."""


@dataclass(frozen=True)
class ValveUse:
    """When the valve was opened of late: the end of each run on a clock that nobody sets, and its open time [s]."""

    runs: tuple[tuple[float, float], ...] = ()

    def after(self, now_s: float, open_s: float) -> ValveUse:
        """Return the use after one more run that has just ended; what is older than a minute is forgotten."""
        young = tuple(run for run in self.runs if run[0] > now_s - DUTY_SPAN_S)
        return ValveUse((*young, (now_s, open_s)))

    def rest_needed_s(self, now_s: float, open_s: float, valve: Valve) -> float:
        """Return how long the valve must rest before it may be open for `open_s` more [s]; infinite if never."""
        allowed = valve.max_duty * DUTY_SPAN_S + 1e-9
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


Use = Mapping[int, ValveUse]
"""How each valve was used of late, by its number; one that is not named has rested."""


def open_s(sequence: Sequence, valve: int) -> float:
    """Time that a sequence holds one valve open in all [s]."""
    return sum(pulse.open_us for pulse in sequence.drops if pulse.valve == valve) / US_PER_S


def problems(
    sequence: Sequence, setup: Setup, use: Use | None = None, now_s: float = 0.0, outputs: Outputs | None = None
) -> tuple[Problem, ...]:
    """Return why a sequence must not be fired, each reason with what to do and where it lies; none if it may be.

    use, now_s : how much the valves were open in the last minute, and the time by the same clock [s]; outputs : what
    the controller can drive, where one does.
    """
    found = [*timing_problems(sequence), *_valve_problems(sequence, setup, use or {}, now_s)]
    if outputs is not None:
        found += _output_problems(sequence, outputs)
    try:
        check(setup, Units())
    except EditError as error:
        found.append(Problem(str(error)))
    except ValueError as error:
        found.append(Problem(f"The table cannot stand so. {error}"))
    else:
        found += [problem for problem in latency(setup, sequence).problems if problem.says != HAND_FIRES]
        found += _light_problems(sequence, setup)
    return tuple(found)


def as_fired(
    sequence: Sequence, setup: Setup, use: Use | None = None, now_s: float = 0.0, outputs: Outputs | None = None
) -> Sequence:
    """Return a sequence as a table would fire it: where a box is dialled by hand, as its dials can say it.

    The arguments are those of `problems`. Raises DialError for what the box cannot say, SequenceError for what must not
    be fired.
    """
    made = dialled(sequence, setup.box) if setup.box.in_use else sequence
    found = problems(made, setup, use, now_s, outputs)
    if found:
        raise SequenceError(tuple(problem.says for problem in found))
    return made


def _valve_problems(sequence: Sequence, setup: Setup, use: Use, now_s: float) -> Iterator[Problem]:
    has = len(setup.valves)
    for index, pulse in enumerate(sequence.drops):
        if not 0 <= pulse.valve < has:
            yield Problem(
                f"Drop {index + 1} falls from valve {pulse.valve + 1}, and this table has "
                f"{'one valve' if has == 1 else f'{has} valves'}: add a valve, or let it fall from another.",
                (index,),
            )
        elif pulse.open_us > setup.valves[pulse.valve].max_open_us:
            yield Problem(_too_long(index + 1, pulse.open_us, setup.valves[pulse.valve]), (index,))
    yield from _merging(sequence, setup)
    for number, valve in enumerate(setup.valves):
        drops = tuple(index for index, pulse in enumerate(sequence.drops) if pulse.valve == number)
        name = "The valve" if has == 1 else valve.name
        worn = _too_much(open_s(sequence, number), name, valve, use.get(number, ValveUse()), now_s) if drops else ""
        if worn:
            yield Problem(worn, drops)


def _merging(sequence: Sequence, setup: Setup) -> Iterator[Problem]:
    """Drops that surely leave as one: what is meant as two is a larger one, and counts as such from the first."""
    for index, pulse in enumerate(sequence.drops):
        before = sequence.before_on_valve(index)
        if before is None:
            continue
        first = sequence.drops[before]
        least_us = least_gap_us(first, setup)
        if MIN_GAP_US <= pulse.start_us - first.end_us < least_us:
            yield Problem(
                f"Drop {index + 1} surely runs into drop {before + 1} at the nozzle: start it at "
                f"{ms(first.end_us + least_us)} or later, or open drop {before + 1} longer instead.",
                (before, index),
            )


def least_gap_us(pulse: Pulse, setup: Setup) -> int:
    """The least time from a closing to the valve's next opening at which two drops may still leave apart [µs].

    A fifth of the capillary time of the first drop: nearer, they are one drop at every valve (common practice, no
    published source).
    """
    valve = setup.valve(pulse.valve)
    liquid = setup.mix_of(pulse.valve).liquid().aged(DROP_AGE_S)
    volume = drop.drop_volume_m3(pulse.open_us / US_PER_S, valve.flow_m3_s, valve.dead_time_s)
    reshaping_s = drop.capillary_time_s(drop.drop_diameter_m(volume), liquid.density_kg_m3, liquid.surface_tension_n_m)
    return max(MIN_GAP_US, math.ceil(CERTAIN_MERGE_RATIO * float(reshaping_s) * 1e4) * 100)


def _output_problems(sequence: Sequence, outputs: Outputs) -> Iterator[Problem]:
    for index, pulse in enumerate(sequence.drops):
        if pulse.valve >= outputs.valves:
            says = f"Drop {index + 1} needs valve {pulse.valve + 1}; this controller drives {outputs.valves}."
            yield Problem(f"{says} Let it fall from another valve.", (index,))
    for index, flash in enumerate(sequence.flashes):
        if flash.output >= outputs.flashes:
            says = f"{flash_name(sequence, index)} needs output {flash.output + 1}; this controller has"
            yield Problem(f"{says} {outputs.flashes}. Give it another output.", flashes=(index,))


def _light_problems(sequence: Sequence, setup: Setup) -> Iterator[Problem]:
    """A flash that nothing hangs on, and units that have not recycled since their flash before."""
    for index, (flash, found) in enumerate(zip(sequence.flashes, lit(setup, sequence), strict=True)):
        name = flash_name(sequence, index)
        tired = [setup.light.units[n] for n in found.not_ready]
        told = [unit for unit in tired if not unit.slave]
        if told:
            units, ready_s = " and ".join(unit.name for unit in told), max(recycle_s(unit) for unit in told)
            yield Problem(
                f"{units} cannot light at {name.lower()}: ready again only after {ready_s * 1e3:.0f} ms. Fire "
                "it later, or put another unit on an output of its own.",
                flashes=(index,),
            )
        if not found.units and not found.not_ready:
            yield Problem(
                f"{name} fires output {flash.output + 1}, and no unit hangs on it: give a unit this output, or take "
                "another.",
                flashes=(index,),
            )


def pour_problems(
    open_us: int, pulses: int, period_us: int, valve: Valve, use: ValveUse, now_s: float
) -> tuple[str, ...]:
    """Return why pulses without light must not be given; none if they may be."""
    found = [_too_long(1, open_us, valve) if open_us > valve.max_open_us else ""]
    if open_us > valve.max_duty * period_us * (1 + 1e-6):
        found.append(
            f"The valve would be open {open_us / period_us:.0%} of the time, over its limit of {valve.max_duty:.0%}: "
            "space the pulses wider."
        )
    # At its steady share it may go on for ever; what was open before counts on top for the first minute.
    in_a_minute = min(pulses * open_us / US_PER_S, valve.max_duty * DUTY_SPAN_S)
    found.append(_too_much(in_a_minute, "The valve", valve, use, now_s))
    return tuple(problem for problem in found if problem)


def _too_long(number: int, open_us: int, valve: Valve) -> str:
    return (
        f"Drop {number} opens for {ms(open_us)}, over the valve's limit of {ms(valve.max_open_us)}: shorten it, or it "
        "overheats and floods."
    )


def _too_much(more_s: float, name: str, valve: Valve, use: ValveUse, now_s: float) -> str:
    rest = use.rest_needed_s(now_s, more_s, valve)
    if rest <= 0:
        return ""
    limit = f"{valve.max_duty:.0%} of a minute"
    if math.isinf(rest):
        return f"{name} would be open for {more_s:.1f} s, more than {limit}: shorten the drops."
    return f"{name} was open much of the last minute; its limit is {limit}. Let it rest for {math.ceil(rest)} s."


def held(made: Sequence, before: Sequence, setup: Setup) -> Sequence:
    """Return an edited sequence with every opening that the edit changed held at its valve's limit."""
    if len(made.drops) != len(before.drops):
        return made
    drops = tuple(
        now if now.open_us == was.open_us else _shortened(now, setup.valve(now.valve))
        for now, was in zip(made.drops, before.drops, strict=True)
    )
    return replace(made, drops=drops)


def _shortened(pulse: Pulse, valve: Valve) -> Pulse:
    return replace(pulse, open_us=min(pulse.open_us, valve.max_open_us))
