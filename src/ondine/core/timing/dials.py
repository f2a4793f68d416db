"""A sequence as the dials of a box that counts in its own way, rounded to its steps."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ondine.core.setup import Box, Counts
from ondine.core.timing.conventions import LightFrom, light_base_us, wait_base_us
from ondine.core.timing.limits import timing_problems
from ondine.core.timing.sequence import Pulse, Sequence, ms


class DialError(ValueError):
    """The box cannot express the sequence; the text says which dial, and what would help."""


@dataclass(frozen=True)
class Dial:
    """One dial: its name on the box, what it is set to, and what the sequence asked for [µs]."""

    name: str
    set_us: int
    wanted_us: int
    lights: bool = False
    """Whether it sets a flash."""


def dials(sequence: Sequence, box: Box) -> tuple[Dial, ...]:
    """Return the dials for a sequence, drop by drop, the flashes last.

    Each dial is rounded against what the dials before it already make, so that errors do not add up.
    Raises DialError where the box has no such drop, valve, flash or number.
    """
    _check_outputs(sequence, box)
    # A box without absolute times starts with its first opening.
    wanted = sequence if box.counts is Counts.ABSOLUTE else _from_first(sequence)
    found: list[Dial] = []
    made: list[Pulse] = []
    for number, pulse in enumerate(wanted.drops, start=1):
        start = 0
        if number > 1 or box.counts is Counts.ABSOLUTE:
            name, base = f"{box.wait_name} {number}", wait_base_us(made, box.counts)
            wait = _round(pulse.start_us - base, box, name)
            found.append(Dial(name, wait, pulse.start_us - wait_base_us(wanted.drops[: number - 1], box.counts)))
            start = base + wait
        name = f"{box.open_name} {number}"
        made.append(replace(pulse, start_us=start, open_us=_round(pulse.open_us, box, name)))
        found.append(Dial(name, made[-1].open_us, pulse.open_us))
    light_from = LightFrom(box.flash_from.value)
    base, meant = light_base_us(made, light_from), light_base_us(wanted.drops, light_from)
    for number, flash in enumerate(wanted.flashes, start=1):
        name = box.flash_name if len(wanted.flashes) == 1 else f"{box.flash_name} {number}"
        found.append(Dial(name, _round(flash.at_us - base, box, name), flash.at_us - meant, lights=True))
    return tuple(found)


def dialled(sequence: Sequence, box: Box) -> Sequence:
    """Return the sequence that the box will really run. Raises DialError."""
    values = iter(dials(sequence, box))
    made: list[Pulse] = []
    for number, pulse in enumerate(sequence.drops, start=1):
        start = 0
        if number > 1 or box.counts is Counts.ABSOLUTE:
            start = wait_base_us(made, box.counts) + next(values).set_us
        made.append(replace(pulse, start_us=start, open_us=next(values).set_us))
    base = light_base_us(made, LightFrom(box.flash_from.value))
    flashes = tuple(replace(flash, at_us=base + next(values).set_us) for flash in sequence.flashes)
    run = replace(sequence, drops=tuple(made), flashes=flashes)
    found = tuple(timing_problems(run))
    if found:
        raise DialError(f"Rounded to steps of {ms(box.step_us)} the sequence cannot run. {found[0].says}")
    return run


def changed(now: tuple[Dial, ...], before: tuple[Dial, ...] | None) -> tuple[bool, ...]:
    """Tell for each dial whether it stands elsewhere than at the shot before; nothing is marked at the first shot."""
    if before is None:
        return (False,) * len(now)
    stood = {dial.name: dial.set_us for dial in before}
    return tuple(stood.get(dial.name) != dial.set_us for dial in now)


def off_by_us(sequence: Sequence, box: Box) -> int:
    """Return the largest error that the rounding makes, of an opening, an open time or the flash [µs].

    Measured from the first opening, since a box may start there. Raises DialError.
    """
    real = dialled(sequence, box)
    wanted, made = _from_first(sequence), _from_first(real)
    pairs = [(a.start_us, b.start_us) for a, b in zip(wanted.drops, made.drops, strict=True)]
    pairs += [(a.open_us, b.open_us) for a, b in zip(wanted.drops, made.drops, strict=True)]
    pairs += [(a.at_us, b.at_us) for a, b in zip(wanted.flashes, made.flashes, strict=True)]
    return max(abs(a - b) for a, b in pairs)


def _check_outputs(sequence: Sequence, box: Box) -> None:
    drops, flashes = len(sequence.drops), len(sequence.flashes)
    valves = max((pulse.valve for pulse in sequence.drops), default=0) + 1
    for has, asked, noun, less in (
        (box.max_drops, drops, "drop", "remove a drop"),
        (box.max_valves, valves, "valve", "let the drops fall from the first valve"),
        (box.max_flashes, flashes, "flash", "remove a flash"),
    ):
        if asked > has:
            raise DialError(
                f"{box.name} knows {_count(has, noun)}, the sequence has {asked}: {less}, or use another box."
            )


def _from_first(sequence: Sequence) -> Sequence:
    shift = sequence.first_opening_us
    drops = tuple(replace(p, start_us=p.start_us - shift) for p in sequence.drops)
    flashes = tuple(replace(flash, at_us=max(flash.at_us - shift, 0)) for flash in sequence.flashes)
    return replace(sequence, drops=drops, flashes=flashes)


def _round(wanted_us: int, box: Box, name: str) -> int:
    steps = round(wanted_us / box.step_us)
    value = steps * box.step_us
    if not box.least_us <= value <= box.most_us:
        raise DialError(
            f"{name} would be {ms(wanted_us)}, but {box.name} counts from {ms(box.least_us)} to {ms(box.most_us)}. "
            + ("Start it later, or count another way." if value < box.least_us else "Make it shorter.")
        )
    return value


def _count(count: int, noun: str) -> str:
    plural = noun + ("es" if noun.endswith("sh") else "s")
    return f"one {noun}" if count == 1 else f"{count} {plural}"
