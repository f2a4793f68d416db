"""Reads a search written as one line of words: `full umbrella gap 60-80 rating>=4 glycerine`.

Shapes, flags and figures go by their names; a figure takes a value, a range or a comparison; what is none of these is
looked for in notes, sittings, set-ups and labels. `not` or a minus sign turns what follows round.
"""

from __future__ import annotations

import math
import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta, tzinfo

from ondine.core.forecast.shapes import SHAPES, Shape
from ondine.core.log.quantities import QUANTITIES, Quantity
from ondine.core.numbers import NumberError, read_number
from ondine.logbook.query import Condition, Field, Fired, Flag, HasShape, Is, Query, Says, Term, Within

MOST_CHARACTERS = 1000
MOST_TERMS = 40

FLAG_NAMES = {
    "keepers": Flag.KEEPER,
    "no picture": Flag.NO_PICTURE,
    "binned": Flag.BINNED,
    "failed": Flag.FAILED,
    **{flag.value: flag for flag in Flag},
}
FIELD_NAMES = {
    "note": Field.NOTE,
    "sitting": Field.SITTING,
    "set-up": Field.SETUP,
    "setup": Field.SETUP,
    "liquid": Field.LIQUID,
    "label": Field.LABEL,
}
FIGURE_NAMES = {name.casefold(): quantity for quantity in QUANTITIES for name in (quantity.name, *quantity.aliases)}

DAYS = ("on", "since", "before")
_SIGN = "[-+−]?"
_DIGITS = r"\d+(?:[.,]\d+)?(?:/\d+)?"
_UNIT = r"(?:\s?(?:ms|mm|cm|m|mPa·s|°C|°))?"
_NUMBER = f"(?:f/)?{_SIGN}{_DIGITS}"
_RANGE = re.compile(rf"\s*(?P<low>{_NUMBER}){_UNIT}\s*(?:-|–|\.\.|\bto\b)\s*(?P<high>{_NUMBER})(?P<unit>{_UNIT})(?!\S)")
_COMPARED = re.compile(
    rf"\s*(?P<how>>=|<=|>|<|=|≥|≤|at least|at most|over|under)?\s*(?P<value>{_NUMBER})(?P<unit>{_UNIT})(?!\S)"
)
_WORD = re.compile(r'\s*(?:"(?P<phrase>[^"]*)"?|(?P<word>\S+))')
_DAY = re.compile(r"\s*(?P<year>\d{4})(?:-(?P<month>\d{1,2})(?:-(?P<day>\d{1,2}))?)?(?!\S)")
_NAMED_DAY = re.compile(r"\s*(?P<name>today|yesterday)(?!\S)", re.IGNORECASE)

LENGTHS_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0}


class QueryError(ValueError):
    """A line that cannot be understood; the sentence says which part, and how to write it."""


@dataclass(frozen=True)
class Vocabulary:
    """What a line may name besides what is fixed: the shapes that the log knows, and the moment it is asked at."""

    now: datetime
    shapes: tuple[Shape, ...] = SHAPES


def read_query(line: str, vocabulary: Vocabulary) -> Query:
    """Read a line. Raises QueryError."""
    if len(line) > MOST_CHARACTERS:
        raise QueryError(f"This line is longer than {MOST_CHARACTERS} characters. Look for less at once.")
    return Query(tuple(_Reader(_latin(line), vocabulary).terms()))


def _latin(line: str) -> str:
    """Write digits of any script as 0 to 9; each sign stays in its place."""
    return "".join(str(unicodedata.decimal(sign)) if sign.isdecimal() else sign for sign in line)


class _Reader:
    """Goes through a line from left to right."""

    def __init__(self, line: str, vocabulary: Vocabulary) -> None:
        self._line, self._at, self._vocabulary = line, 0, vocabulary
        self._folded = line.casefold() if len(line.casefold()) == len(line) else line.lower()
        names = [(name, HasShape(s.key, s.name)) for s in vocabulary.shapes for name in (s.name, s.key)]
        self._shapes = {name.casefold(): shape for name, shape in names}

    def terms(self) -> Iterable[Term]:
        """Yield what is asked for, in its order."""
        found = 0
        while self._line[self._at :].strip():
            found += 1
            if found > MOST_TERMS:
                raise QueryError(f"More than {MOST_TERMS} things are looked for at once. Look for fewer.")
            negated = self._negated()
            condition = self._figure() or self._day() or self._named() or self._text()
            if condition is not None:
                yield Term(condition, negated)

    def _negated(self) -> bool:
        found = re.compile(r"\s*(?:not\s+(?=\S)|-(?=[^\s\d]))", re.IGNORECASE).match(self._line, self._at)
        if found:
            self._at = found.end()
        return bool(found)

    def _take_name(self, names: Iterable[str]) -> str | None:
        """Go past the longest of some names that stands here as words of its own; return it."""
        start = len(self._line) - len(self._line[self._at :].lstrip())
        for name in sorted(names, key=len, reverse=True):
            end = start + len(name)
            if self._folded.startswith(name, start) and (end == len(self._line) or self._line[end] in " <>=≥≤\t"):
                self._at = end
                return name
        return None

    # Figures

    def _figure(self) -> Within | None:
        before = self._at
        name = self._take_name(FIGURE_NAMES)
        if name is None:
            found = re.compile(r"\s*(?=f/\d)").match(self._line, self._at)
            if not found:
                return None
            name = "aperture"
        quantity = FIGURE_NAMES[name]
        between = _RANGE.match(self._line, self._at)
        compared = None if between else _COMPARED.match(self._line, self._at)
        if between:
            self._at = between.end()
            ends = [self._value(quantity, between[part], between["unit"]) for part in ("low", "high")]
            low, high = min(ends), max(ends)
            shown = f"{quantity.name} {_bare(quantity, low)} to {quantity.words(high)}"
            return Within(quantity, _a_little_under(quantity, low), _a_little_over(quantity, high), shown)
        if compared:
            self._at = compared.end()
            return _within(quantity, compared["how"] or "=", self._value(quantity, compared["value"], compared["unit"]))
        if self._line[self._at : self._at + 2].strip()[:1] in tuple("<>=≥≤"):
            raise QueryError(
                f"After “{name}” stands no number. Write it like “{quantity.name} 60-80” or “{quantity.name}>=60”."
            )
        # A word like any other: "the gap was too short".
        self._at = before
        return None

    def _value(self, quantity: Quantity, text: str, unit: str) -> float:
        unit = unit.strip()
        try:
            value = read_number(text.removeprefix("f/"))
        except NumberError as error:
            raise QueryError(f"{quantity.name}: {error}") from error
        if not unit or unit == quantity.unit:
            return value
        if quantity.unit == "mm" and unit in LENGTHS_MM:
            return value * LENGTHS_MM[unit]
        if quantity.unit == "°C" and unit == "°":
            return value
        wanted = f"in {quantity.unit}" if quantity.unit else "a number without a unit"
        raise QueryError(f"“{text.strip()} {unit}”: {quantity.name} is {wanted}.")

    # Days

    def _day(self) -> Fired | None:
        before = self._at
        how = self._take_name(DAYS)
        found = _DAY.match(self._line, self._at) if how else None
        named = None if found else _NAMED_DAY.match(self._line, self._at)
        zone = self._vocabulary.now.tzinfo
        if named:
            self._at = named.end()
            day = self._vocabulary.now.date() - timedelta(days=named["name"].lower() == "yesterday")
            return _fired(how or "on", day, day + timedelta(days=1), zone, named["name"].lower())
        if how is None or found is None:
            self._at = before
            return None
        self._at = found.end()
        year, month, day_ = (int(found[part]) if found[part] else None for part in ("year", "month", "day"))
        try:
            first = date(year or 0, month or 1, day_ or 1)
            if day_:
                after = first + timedelta(days=1)
            else:
                after = date(first.year + (1 if not month or month == 12 else 0), (month or 12) % 12 + 1, 1)
        except (ValueError, OverflowError) as error:
            raise QueryError(f"“{found[0].strip()}” is no day. Write it like 2026-05-09, 2026-05 or 2026.") from error
        return _fired(how, first, after, zone, found[0].strip())

    # Names and words

    def _named(self) -> Condition | None:
        name = self._take_name((*self._shapes, *FLAG_NAMES))
        if name is not None:
            return self._shapes[name] if name in self._shapes else Is(FLAG_NAMES[name])
        before = self._at
        field = self._take_name(FIELD_NAMES)
        if field is None:
            return None
        words = self._text()
        if words is None or not self._line[before : self._at].strip():
            self._at = before
            return None
        return Says(FIELD_NAMES[field], words.words, words.whole)

    def _text(self) -> Says | None:
        found = _WORD.match(self._line, self._at)
        if found is None:
            self._at = len(self._line)
            return None
        self._at = found.end()
        phrase = found["phrase"]
        words = (found["word"] if phrase is None else phrase).strip()
        return Says(Field.ANY, words, phrase is not None) if any(sign.isalnum() for sign in words) else None


def _fired(how: str, first: date, after: date, zone: tzinfo | None, name: str) -> Fired:
    begins, ends = (datetime.combine(day, time(), zone) for day in (first, after))
    if how == "since":
        return Fired(begins, None, f"since {name}")
    if how == "before":
        return Fired(None, begins, f"before {name}")
    return Fired(begins, ends, name if name in ("today", "yesterday") else f"on {name}")


def _within(quantity: Quantity, how: str, value: float) -> Within:
    name, said = quantity.name, quantity.words(value)
    match how:
        case ">=" | "≥" | "at least":
            return Within(quantity, _a_little_under(quantity, value), None, f"{name} at least {said}")
        case "<=" | "≤" | "at most":
            return Within(quantity, None, _a_little_over(quantity, value), f"{name} at most {said}")
        case ">" | "over":
            return Within(quantity, _a_little_over(quantity, value), None, f"{name} over {said}")
        case "<" | "under":
            return Within(quantity, None, _a_little_under(quantity, value), f"{name} under {said}")
    return Within(quantity, _a_little_under(quantity, value), _a_little_over(quantity, value), f"{name} {said}")


def _a_little_under(quantity: Quantity, value: float) -> float:
    """What is shown as a value counts as it: half a step of what is shown lies inside."""
    return math.nextafter(value - _half_step(quantity), math.inf)


def _a_little_over(quantity: Quantity, value: float) -> float:
    return math.nextafter(value + _half_step(quantity), -math.inf)


def _half_step(quantity: Quantity) -> float:
    return 0.5 * 10.0**-quantity.decimals


def _bare(quantity: Quantity, value: float) -> str:
    return quantity.number(value) if quantity.unit else quantity.words(value)
