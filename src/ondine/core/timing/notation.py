"""A sequence as one line for paper and messages, to be read aloud, and read back exactly.

    ms, start to start: A 0 open 22, A 95 open 22; flash from the trigger: 1 at 356

The unit, what waits are counted from, each drop with its valve, wait and open time; then what flashes are counted from,
and each flash with its output and time. `shutter`, `mirror` and `half press` follow with times from the trigger where
they are set. Valves are letters, outputs numbers.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import NoReturn, TypeVar

from ondine.core.setup import Counts
from ondine.core.timing.conventions import (
    Convention,
    ConventionError,
    LightFrom,
    Predicts,
    drops_of,
    flashes_of,
    nothing_predicted,
    tell,
)
from ondine.core.timing.limits import MAX_DROPS, MAX_FLASHES
from ondine.core.timing.sequence import CameraTimes, Sequence

T = TypeVar("T")

UNITS = {"ms": 1000, "us": 1}
"""How many microseconds each unit is; milliseconds carry up to three decimals."""

MOST_CHARACTERS = 2_000
"""No line of eight drops and four flashes is as long."""

VALVES = "ABCD"
_CAMERA = {"shutter": "opens_us", "mirror": "mirror_us", "half press": "half_press_us"}


class NotationError(ValueError):
    """A line that cannot be read; the text says at which column, what was found, and what was expected."""


@dataclass(frozen=True)
class Line:
    """What a line says: the sequence, and how it was told."""

    sequence: Sequence
    convention: Convention
    unit: str


def write(
    sequence: Sequence,
    convention: Convention | None = None,
    unit: str = "ms",
    predicts: Predicts = nothing_predicted,
) -> str:
    """Return the line of a sequence. Raises ConventionError where the forecast is asked in vain."""
    convention = convention or Convention()
    whole = sequence.ordered()
    told = tell(whole, convention, predicts)
    drops = ", ".join(
        f"{_letter(pulse.valve)} {_number(wait_us, unit)} open {_number(pulse.open_us, unit)}"
        for wait_us, pulse in zip(told.waits_us, whole.drops, strict=True)
    )
    flashes = ", ".join(
        f"{flash.output + 1} at {_number(delay_us, unit)}"
        for delay_us, flash in zip(told.delays_us, whole.flashes, strict=True)
    )
    line = f"{unit}, {convention.counts}: {drops}; flash from {convention.light_from}: {flashes}"
    for word, name in _CAMERA.items():
        time_us = getattr(whole.camera, name)
        if time_us is not None:
            line += f"; {word} {_number(time_us, unit)}"
    return line


def _letter(valve: int) -> str:
    return VALVES[valve] if valve < len(VALVES) else f"valve {valve + 1}"


def _number(time_us: int, unit: str) -> str:
    if unit == "us":
        return str(time_us)
    whole, rest = divmod(abs(time_us), UNITS[unit])
    digits = f"{whole}.{rest:03d}".rstrip("0").rstrip(".") if rest else str(whole)
    return f"-{digits}" if time_us < 0 else digits


def read(text: str, predicts: Predicts = nothing_predicted) -> Line:
    """Read a line. Raises NotationError with column, what was found and what was expected; ConventionError."""
    _check_length(text)
    return _Reader(text).line(predicts)


def _check_length(text: str) -> None:
    if len(text) > MOST_CHARACTERS:
        raise NotationError(
            f"This is {len(text)} characters long, and no sequence needs more than {MOST_CHARACTERS}: give one line."
        )


def read_convention(text: str) -> tuple[Convention, str]:
    """Read a convention and a unit as `write` puts them, any part of it: "us", "start to start", "flash from the last
    closing", parted by commas; what is left out is counted from the trigger, in ms. Raises NotationError.
    """
    counts, light_from, unit = Counts.ABSOLUTE, LightFrom.TRIGGER, "ms"
    column = 1
    for part in text.split(","):
        word = part.strip()
        if word in UNITS:
            unit = word
        elif word in {str(one) for one in Counts}:
            counts = Counts(word)
        elif word.removeprefix("flash from ") in {str(one) for one in LightFrom} and word.startswith("flash from "):
            light_from = LightFrom(word.removeprefix("flash from "))
        else:
            known = [*UNITS, *Counts, *(f"flash from {one}" for one in LightFrom)]
            raise NotationError(_wrong(column + len(part) - len(part.lstrip()), word, known))
        column += len(part) + 1
    return Convention(counts, light_from), unit


PART = "part"


def write_part(part: Sequence, unit: str = "ms") -> str:
    """Return the line of some drops and flashes alone, counted from the first of them: to be put in elsewhere.

    part, ms: A 0 open 22, A 95 open 22; flash: 1 at 356
    """
    drops = ", ".join(
        f"{_letter(pulse.valve)} {_number(pulse.start_us, unit)} open {_number(pulse.open_us, unit)}"
        for pulse in part.drops
    )
    flashes = ", ".join(f"{flash.output + 1} at {_number(flash.at_us, unit)}" for flash in part.flashes)
    return f"{PART}, {unit}: " + "; ".join(filter(None, (drops, flashes and f"flash: {flashes}")))


def is_part(text: str) -> bool:
    """Whether a line begins as `write_part` does."""
    return text.lstrip().startswith(PART)


def read_part(text: str) -> Sequence:
    """Read what `write_part` wrote; drops or flashes may be missing. Raises NotationError as `read` does."""
    _check_length(text)
    return _Reader(text).part()


_NUMBER = re.compile(r"-?[0-9]+(?:\.[0-9]+)?")
_FOUND = re.compile(r"\S+")


class _Reader:
    """Walks along a line; every step says what it expects."""

    def __init__(self, text: str) -> None:
        self._text, self._at = text, 0

    def line(self, predicts: Predicts) -> Line:
        """Read the whole line."""
        unit = self._one_of(UNITS)
        self._sign(",")
        counts = Counts(self._one_of(str(one) for one in Counts))
        self._sign(":")
        drops = drops_of(self._list(lambda: self._drop(unit), MAX_DROPS, "drops"), counts)
        self._sign(";")
        light_from = LightFrom(self._one_of(f"flash from {one}" for one in LightFrom).removeprefix("flash from "))
        self._sign(":")
        told = self._list(lambda: self._flash(unit), MAX_FLASHES, "flashes")
        column = self._at + 1
        camera = self._camera(unit)
        try:
            flashes = flashes_of(told, drops, light_from, predicts)
        except ConventionError as error:
            raise ConventionError(f"Before column {column}: {error}") from error
        return Line(Sequence(drops, flashes, camera), Convention(counts, light_from), unit)

    def part(self) -> Sequence:
        """Read some drops and flashes alone."""
        self._one_of([PART])
        self._sign(",")
        unit = self._one_of(UNITS)
        self._sign(":")
        drops: list[tuple[int, int, int]] = []
        told: list[tuple[int, int]] = []
        if not self._rest().startswith(("flash", *VALVES)):
            self._skip()
            self._fail([*VALVES, "flash"])
        if not self._rest().startswith("flash"):
            drops = self._list(lambda: self._drop(unit), MAX_DROPS, "drops")
            if self._rest():
                self._sign(";", "the end of the line")
        if not drops or self._rest():
            self._one_of(["flash"])
            self._sign(":")
            told = self._list(lambda: self._flash(unit), MAX_FLASHES, "flashes")
        if self._rest():
            self._skip()
            self._fail(["the end of the line"])
        made = drops_of(drops, Counts.ABSOLUTE)
        return Sequence(made, flashes_of(told, made, LightFrom.TRIGGER))

    def _drop(self, unit: str) -> tuple[int, int, int]:
        valve = VALVES.index(self._one_of(VALVES))
        wait_us = self._time(unit)
        self._one_of(["open"])
        return wait_us, self._time(unit), valve

    def _flash(self, unit: str) -> tuple[int, int]:
        output = int(self._one_of(str(n) for n in range(1, MAX_FLASHES + 1))) - 1
        self._one_of(["at"])
        return self._time(unit), output

    def _camera(self, unit: str) -> CameraTimes:
        asked: dict[str, int] = {}
        while self._rest():
            self._sign(";", "the end of the line")
            left = [word for word, name in _CAMERA.items() if name not in asked]
            if not left:
                self._fail(["the end of the line: each time of the camera is there once"])
            name = _CAMERA[self._one_of(left)]
            asked[name] = self._time(unit)
        return CameraTimes(**asked)

    def _list(self, one: Callable[[], T], most: int, noun: str) -> list[T]:
        found = [one()]
        while self._rest().startswith(","):
            self._sign(",")
            if len(found) == most:
                raise NotationError(f"Column {self._at + 1}: a sequence has at most {most} {noun}.")
            found.append(one())
        return found

    def _rest(self) -> str:
        return self._text[self._at :].lstrip()

    def _skip(self) -> None:
        self._at = len(self._text) - len(self._rest())

    def _sign(self, sign: str, *others: str) -> None:
        self._skip()
        if not self._text.startswith(sign, self._at):
            self._fail([f"“{sign}”", *others])
        self._at += len(sign)

    def _one_of(self, words: Iterable[str]) -> str:
        self._skip()
        known = list(words)
        for word in sorted(known, key=len, reverse=True):
            end = self._at + len(word)
            if self._text.startswith(word, self._at) and not self._text[end : end + 1].isalnum():
                self._at = end
                return word
        self._fail(known)

    def _time(self, unit: str) -> int:
        self._skip()
        found = _NUMBER.match(self._text, self._at)
        if found is None:
            self._fail(["a number with a point"])
        whole, _, decimals = found[0].partition(".")
        places = 3 if unit == "ms" else 0
        if len(decimals) > places:
            finest = "thousandths of a millisecond" if places else "whole microseconds"
            raise NotationError(f"Column {self._at + 1}: {found[0]} is finer than {finest}, which is the finest.")
        if len(whole) > 10:
            raise NotationError(f"Column {self._at + 1}: {found[0]:.12}… is no time of a sequence.")
        sign = -1 if whole.startswith("-") else 1
        self._at = found.end()
        return int(whole) * UNITS[unit] + sign * int(decimals.ljust(places, "0") or 0)

    def _fail(self, expected: list[str]) -> NoReturn:
        found = _FOUND.match(self._text, self._at)
        raise NotationError(_wrong(self._at + 1, found[0] if found else "", expected))


def _wrong(column: int, found: str, expected: list[str]) -> str:
    shown = f"“{found[:20]}{'…' if len(found) > 20 else ''}”" if found else "the end of the line"
    wanted = " or ".join((", ".join(expected[:-1]), expected[-1])) if len(expected) > 1 else expected[0]
    return f"Column {column}: found {shown}, expected {wanted}."
