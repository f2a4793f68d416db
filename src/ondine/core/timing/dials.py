"""A sequence as the dials of a box that counts in its own way, rounded to its steps."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ondine.core.setup import Box, Counts, FlashFrom
from ondine.core.timing.sequence import Pulse, Sequence, SequenceError, ms


class DialError(ValueError):
    """The box cannot express the sequence; the text says which dial, and what would help."""


@dataclass(frozen=True)
class Dial:
    """One dial: its name on the box, what it is set to, and what the sequence asked for [µs]."""

    name: str
    set_us: int
    wanted_us: int


def dials(sequence: Sequence, box: Box) -> tuple[Dial, ...]:
    """Return the dials for a sequence, drop by drop, the flash last.

    Each dial is rounded against what the dials before it already make, so that errors do not add up.
    Raises DialError where the box has no such drop or no such number.
    """
    if len(sequence.drops) > box.max_drops:
        raise DialError(
            f"{box.name} knows {_drops(box.max_drops)}, the sequence has {len(sequence.drops)}: "
            "remove a drop, or use another box."
        )
    # A box without absolute times starts with its first opening.
    wanted = sequence if box.counts is Counts.ABSOLUTE else _from_first(sequence)
    found: list[Dial] = []
    made: list[Pulse] = []
    for number, pulse in enumerate(wanted.drops, start=1):
        start = 0
        if number > 1 or box.counts is Counts.ABSOLUTE:
            name, base = f"{box.wait_name} {number}", _wait_from(made, box)
            wait = _round(pulse.start_us - base, box, name)
            found.append(Dial(name, wait, pulse.start_us - _wait_from(list(wanted.drops[: number - 1]), box)))
            start = base + wait
        name = f"{box.open_name} {number}"
        made.append(Pulse(start, _round(pulse.open_us, box, name)))
        found.append(Dial(name, made[-1].open_us, pulse.open_us))
    flash = _round(wanted.flash_us - _flash_from(made, box), box, box.flash_name)
    found.append(Dial(box.flash_name, flash, wanted.flash_us - _flash_from(list(wanted.drops), box)))
    return tuple(found)


def dialled(sequence: Sequence, box: Box) -> Sequence:
    """Return the sequence that the box will really run. Raises DialError."""
    values = iter(dials(sequence, box))
    made: list[Pulse] = []
    for number in range(1, len(sequence.drops) + 1):
        start = 0
        if number > 1 or box.counts is Counts.ABSOLUTE:
            start = _wait_from(made, box) + next(values).set_us
        made.append(Pulse(start, next(values).set_us))
    flash = _flash_from(made, box) + next(values).set_us
    try:
        return Sequence(tuple(made), flash)
    except SequenceError as error:
        raise DialError(f"Rounded to steps of {ms(box.step_us)} the sequence cannot run. {error}") from error


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
    pairs.append((wanted.flash_us, made.flash_us))
    return max(abs(a - b) for a, b in pairs)


def _from_first(sequence: Sequence) -> Sequence:
    shift = sequence.drops[0].start_us
    drops = tuple(Pulse(p.start_us - shift, p.open_us) for p in sequence.drops)
    return replace(sequence, drops=drops, flash_us=max(sequence.flash_us - shift, 0))


def _wait_from(made: list[Pulse], box: Box) -> int:
    if box.counts is Counts.ABSOLUTE or not made:
        return 0
    return made[-1].start_us if box.counts is Counts.START_TO_START else made[-1].end_us


def _flash_from(made: list[Pulse], box: Box) -> int:
    match box.flash_from:
        case FlashFrom.TRIGGER:
            return 0
        case FlashFrom.FIRST_OPENING:
            return made[0].start_us
        case FlashFrom.LAST_OPENING:
            return made[-1].start_us
        case FlashFrom.LAST_CLOSING:
            return made[-1].end_us


def _round(wanted_us: int, box: Box, name: str) -> int:
    steps = round(wanted_us / box.step_us)
    value = steps * box.step_us
    if not box.least_us <= value <= box.most_us:
        raise DialError(
            f"{name} would be {ms(wanted_us)}, but {box.name} counts from {ms(box.least_us)} to {ms(box.most_us)}. "
            + ("Start it later, or count another way." if value < box.least_us else "Make it shorter.")
        )
    return value


def _drops(count: int) -> str:
    return "one drop" if count == 1 else f"{count} drops"
