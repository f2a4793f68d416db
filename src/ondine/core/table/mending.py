"""The nearest sequence that can be fired, and what was changed to get there."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from ondine.core.constants import US_PER_S
from ondine.core.forecast.lit import lit
from ondine.core.light.recycle import recycle_s
from ondine.core.numbers import counted
from ondine.core.setup import FlashFiredBy, Release, Setup
from ondine.core.table.firing import least_gap_us, problems
from ondine.core.timing.latency import latency
from ondine.core.timing.limits import MAX_DROPS, MAX_FLASHES, Outputs, flash_name
from ondine.core.timing.sequence import MAX_TIME_US, MIN_OPEN_US, FlashPulse, Pulse, Sequence, held, ms

STEP_US = 100
"""Times are mended to tenths of a millisecond, as hands set them."""


@dataclass(frozen=True)
class Mended:
    """A sequence that can be fired, and what was changed, each in a few words."""

    sequence: Sequence
    changes: tuple[str, ...]


def mended(sequence: Sequence, setup: Setup, outputs: Outputs | None = None) -> Mended | None:
    """Return the nearest sequence that this table can fire; None if only the table can be changed.

    Openings are shortened before drops are moved, and drops are moved before any is taken out.
    """
    changes: list[str] = []
    made = sequence
    for step in (_counted, _in_span, _on_valves, _opened, _parted, _on_outputs, _recycled, _in_time, _seen):
        made = step(made, setup, outputs, changes.append)
    if problems(made, setup, outputs=outputs):
        return None
    return Mended(made, tuple(changes))


Say = Callable[[str], None]


def _counted(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    """Not too many drops and flashes, and one of each."""
    drops, flashes = sequence.drops[:MAX_DROPS], sequence.flashes[:MAX_FLASHES]
    if len(drops) < len(sequence.drops):
        say(f"{counted(len(sequence.drops) - len(drops), 'drop')} taken out")
    if len(flashes) < len(sequence.flashes):
        say(f"{len(sequence.flashes) - len(flashes)} of the flashes taken out")
    return replace(sequence, drops=drops or (Pulse(0, 20_000),), flashes=flashes or (FlashPulse(300_000),))


def _in_span(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    drops = tuple(replace(pulse, start_us=held(pulse.start_us)) for pulse in sequence.drops)
    flashes = tuple(replace(flash, at_us=held(flash.at_us)) for flash in sequence.flashes)
    camera = sequence.camera
    times = (None if time is None else held(time) for time in (camera.opens_us, camera.mirror_us, camera.half_press_us))
    made = Sequence(drops, flashes, type(camera)(*times))
    if made != sequence:
        say(f"times held between 0 and {ms(MAX_TIME_US)}")
    return made


def _on_valves(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    last = min(len(setup.valves), outputs.valves if outputs else len(setup.valves)) - 1
    for index, pulse in enumerate(sequence.drops):
        if pulse.valve > last:
            say(f"drop {index + 1} from valve {last + 1}")
            sequence = sequence.with_pulse(index, replace(pulse, valve=last))
    return sequence


def _opened(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    for index, pulse in enumerate(sequence.drops):
        most = setup.valve(pulse.valve).max_open_us
        open_us = min(max(pulse.open_us, MIN_OPEN_US), most)
        if open_us != pulse.open_us:
            say(f"drop {index + 1} open {ms(open_us)}")
            sequence = sequence.with_pulse(index, replace(pulse, open_us=open_us))
    return sequence


def _parted(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    """Each valve closed long enough before its next drop: later drops move, in the order of their openings."""
    for index in sorted(range(len(sequence.drops)), key=lambda i: sequence.drops[i].start_us):
        before = sequence.before_on_valve(index)
        if before is None:
            continue
        pulse, first = sequence.drops[index], sequence.drops[before]
        free_us = first.end_us + least_gap_us(first, setup)
        if pulse.start_us < free_us:
            start_us = -(-free_us // STEP_US) * STEP_US
            say(f"drop {index + 1} at {ms(start_us)}")
            sequence = sequence.with_pulse(index, replace(pulse, start_us=start_us))
    return sequence


def _on_outputs(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    known = sorted({unit.output for unit in setup.light.units if not unit.slave})
    known = [output for output in known if outputs is None or output < outputs.flashes]
    flashes = list(sequence.flashes)
    for index, flash in enumerate(flashes):
        if known and flash.output not in known:
            flashes[index] = replace(flash, output=known[0])
            say(f"{flash_name(sequence, index).lower()} on output {known[0] + 1}")
    return replace(sequence, flashes=tuple(flashes))


def _recycled(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    """Flashes whose units are not ready go out: later they would show something else."""
    tired = {index for index, found in enumerate(lit(setup, sequence)) if not found.units and found.not_ready}
    if not tired or len(tired) == len(sequence.flashes):
        return sequence
    for index in sorted(tired):
        ready_ms = max(recycle_s(setup.light.units[n]) for n in lit(setup, sequence)[index].not_ready) * 1e3
        say(f"{flash_name(sequence, index).lower()} taken out, its unit needs {ready_ms:.0f} ms")
    return replace(sequence, flashes=tuple(f for n, f in enumerate(sequence.flashes) if n not in tired))


def _in_time(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    """Everything later, if a light, or the shutter before it, cannot come as early as it is wanted."""
    found = latency(setup, sequence)
    wanted_s = [flash.at_us / US_PER_S for flash in sequence.flashes]
    late_s = max(lit_s - at_s for lit_s, at_s in zip(found.lights_s, wanted_s, strict=True))
    by_hand = setup.triggers.release is Release.HAND
    if setup.triggers.flash_fired_by is FlashFiredBy.CONTROLLER and not by_hand:
        late_s = max(late_s, found.shutter.lag_s + found.shutter_spread_s - min(wanted_s))
    if late_s <= 1e-6:
        return sequence
    later_us = -(-math.ceil(late_s * US_PER_S - 1e-3) // STEP_US) * STEP_US
    say(f"everything {ms(later_us)} later")
    drops = tuple(replace(pulse, start_us=pulse.start_us + later_us) for pulse in sequence.drops)
    flashes = tuple(replace(flash, at_us=flash.at_us + later_us) for flash in sequence.flashes)
    return replace(sequence, drops=drops, flashes=flashes)


def _seen(sequence: Sequence, setup: Setup, outputs: Outputs | None, say: Say) -> Sequence:
    """The shutter by the table's lead, and the mirror by hand, where their own times do not work."""
    if not any(problem.camera for problem in latency(setup, sequence).problems):
        return sequence
    made = replace(sequence, camera=type(sequence.camera)())
    if made != sequence:
        say("shutter and mirror as the table says")
    return made
