"""Shots out of a table that others wrote: each row a shot, or a sentence why it is none."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time, tzinfo
from enum import StrEnum

from ondine.core.forecast.plan import Plan
from ondine.core.forecast.shapes import Shape
from ondine.core.numbers import NumberError, counted, read_number
from ondine.core.setup import BenchKind
from ondine.core.timing.limits import MAX_DROPS
from ondine.core.timing.sequence import MAX_TIME_US, FlashPulse, Pulse, Sequence
from ondine.core.timing.wire import sequence_to_json
from ondine.logbook.column_map import ASKED, BY_KEY, MOST_FLASHES, MS_PER, Meaning, Unit
from ondine.logbook.foreign_table import ForeignTable, TableError
from ondine.logbook.records import PastShot, ShotRecord

YES = ("1", "yes", "y", "true", "x", "keep", "ja")
MOST_NOTE = 500
ASIDE = "aside"
FIRST_YEAR, LAST_YEAR = 1840, 2200
"""No photograph is older, and no clock is so far ahead."""


class Dates(StrEnum):
    """How a date of numbers alone is meant."""

    DAY_FIRST = "day first"
    MONTH_FIRST = "month first"


@dataclass(frozen=True)
class Import:
    """What a table comes to: shots that are new, how many are in the log already, and a sentence for each row that is
    left out.
    """

    shots: tuple[PastShot, ...]
    known: int
    left_out: tuple[str, ...]

    @property
    def words(self) -> str:
        """All of it in a sentence."""
        parts = [f"{counted(len(self.shots), 'shot')} to take in"]
        if self.known:
            parts.append(f"{self.known} {'is' if self.known == 1 else 'are'} in the log already")
        if self.left_out:
            parts.append(f"{counted(len(self.left_out), 'row')} cannot be")
        return ", ".join(parts) + "."


def read_shots(
    table: ForeignTable,
    meanings: Mapping[str, Meaning],
    plan: Plan,
    shapes: Iterable[Shape],
    known: Iterable[ShotRecord] = (),
    dates: Dates | None = None,
    zone: tzinfo | None = None,
    sitting: str = "Taken in",
) -> Import:
    """Return the shots of a table.

    plan : whose set-up and belief they are logged with; known : shots of the log, which are not taken in twice; zone :
    of times that say none, the computer's by default. Raises TableError where the columns do not tell enough.
    """
    reader = _Reader(table, meanings, plan, tuple(shapes), dates, zone, sitting)
    has = {_same(shot.at, shot.sequence) for shot in known}
    made: list[PastShot] = []
    left_out, doubles = [], 0
    for line, cells in table.rows:
        try:
            shot = reader.shot(cells)
        except ValueError as error:
            left_out.append(f"Line {line}: {error}")
            continue
        same = _same(shot.at, shot.plan.sequence)
        if same in has:
            doubles += 1
        else:
            has.add(same)
            made.append(shot)
    return Import(tuple(sorted(made, key=lambda shot: shot.at)), doubles, tuple(left_out))


def _same(at: datetime, sequence: Sequence) -> tuple[str, str]:
    return at.astimezone(UTC).isoformat(timespec="seconds"), sequence_to_json(sequence)


class _Reader:
    def __init__(
        self,
        table: ForeignTable,
        meanings: Mapping[str, Meaning],
        plan: Plan,
        shapes: tuple[Shape, ...],
        dates: Dates | None,
        zone: tzinfo | None,
        sitting: str,
    ) -> None:
        if asked := [column for column, meaning in meanings.items() if meaning.field == ASKED]:
            raise TableError(
                f"The columns {_listed(asked)} may mean the same. Say what each of them means, or that it is left "
                "aside."
            )
        for column, meaning in meanings.items():
            if column not in table.columns:
                raise TableError(f"There is no column “{column}”. There are: {', '.join(table.columns)}.")
            if meaning.field not in BY_KEY:
                raise TableError(f"No column can mean “{meaning.field}”. It can be: {', '.join(BY_KEY)}.")
        for field in BY_KEY:
            if len(same := [column for column, meaning in meanings.items() if meaning.field == field]) > 1:
                raise TableError(f"The columns {_listed(same)} are both “{BY_KEY[field].name}”. Leave one aside.")
        self._place = {m.field: table.columns.index(column) for column, m in meanings.items()}
        self._unit = {m.field: m.unit for m in meanings.values()}
        self._plan, self._zone, self._sitting = plan, zone, sitting
        self._shapes = {name.casefold(): s.key for s in shapes for name in (s.key, s.name)}
        self._dates = dates
        self._check_enough()
        if dates is None and (place := self._place.get("at", self._place.get("date"))) is not None:
            self._dates = _told_dates([cells[place] for _, cells in table.rows])

    def _check_enough(self) -> None:
        has = self._place.keys()
        if not has & {"at", "date"}:
            raise TableError("No column tells when a shot was fired. Say which one is the date, or date and time.")
        if not has & {"open", "drop1_open"}:
            raise TableError("No column tells how long the valve was open. Say which one is “Drop 1 open for”.")
        if "flash1" not in has:
            raise TableError("No column tells when the flash was fired. Say which one is “Flash 1 from the trigger”.")

    def shot(self, cells: tuple[str, ...]) -> PastShot:
        """Return the shot of a row. Raises ValueError."""
        shapes, others = self._shapes_of(self._text(cells, "shapes"))
        labels = [*others, *_parts(self._text(cells, "labels"))]
        return PastShot(
            sitting=self._text(cells, "sitting") or self._sitting,
            at=self._at(cells),
            plan=replace(self._plan, sequence=self._sequence(cells)),
            shapes=shapes,
            rating=self._rating(cells),
            note=self._text(cells, "note")[:MOST_NOTE],
            bench=self._bench(cells),
            keeper=self._text(cells, "keeper").casefold() in YES,
            labels=tuple(dict.fromkeys(label[:60] for label in labels)),
        )

    def _text(self, cells: tuple[str, ...], field: str) -> str:
        place = self._place.get(field)
        # An apostrophe in front is what tables put before what a spreadsheet might run.
        return "" if place is None else cells[place].removeprefix("'").strip()

    # Times of the sequence

    def _us(self, cells: tuple[str, ...], field: str) -> int | None:
        text = self._text(cells, field)
        if not text:
            return None
        unit = self._unit[field]
        try:
            us = round(read_number(text, unit.value) * MS_PER[unit] * 1000)
        except NumberError as error:
            raise ValueError(f"{BY_KEY[field].name}: {error}") from error
        if not 0 <= us <= MAX_TIME_US:
            raise ValueError(f"{BY_KEY[field].name} is {text} {unit}, and must be from 0 to {MAX_TIME_US / 1e6:g} s.")
        return us

    def _sequence(self, cells: tuple[str, ...]) -> Sequence:
        drops: list[Pulse] = []
        usual = self._us(cells, "open")
        for n in range(1, MAX_DROPS + 1):
            open_us, start_us = self._us(cells, f"drop{n}_open"), self._us(cells, f"drop{n}_start")
            if n == 1:
                start_us = start_us or 0
            elif start_us is None:
                start_us = self._second_start(cells, drops[0]) if n == 2 else None
            if start_us is None or (n > 1 and open_us is None and usual is None):
                break
            open_us = open_us if open_us is not None else usual
            if not open_us:
                if n > 1:
                    break
                raise ValueError("it does not say how long the valve was open.")
            drops.append(Pulse(start_us, open_us))
        flashes = [us for n in range(1, MOST_FLASHES + 1) if (us := self._us(cells, f"flash{n}")) is not None]
        if not flashes:
            raise ValueError("it does not say when the flash was fired.")
        try:
            return Sequence(tuple(drops), tuple(FlashPulse(us) for us in flashes))
        except ValueError as error:
            raise ValueError(f"{error}.") from error

    def _second_start(self, cells: tuple[str, ...], first: Pulse) -> int | None:
        interval, gap = self._us(cells, "interval"), self._us(cells, "gap")
        if interval is not None:
            return first.start_us + interval
        return None if gap is None else first.end_us + gap

    # When, and what was said

    def _at(self, cells: tuple[str, ...]) -> datetime:
        text = self._text(cells, "at")
        if text:
            day, _, rest = text.replace("T", " ", 1).partition(" ")
        else:
            day, rest = self._text(cells, "date"), self._text(cells, "time")
        if not day:
            raise ValueError("it does not say when it was fired.")
        clock, zone = _clock(rest.strip())
        at = datetime.combine(self._day(day), clock)
        if not FIRST_YEAR <= at.year <= LAST_YEAR:
            raise ValueError(f"“{day}” is of no year that splashes were photographed in.")
        try:
            return at.replace(tzinfo=zone or self._zone) if zone or self._zone else at.astimezone()
        except (OverflowError, OSError, ValueError) as error:
            raise ValueError(f"“{day} {rest}” is no time that a computer knows.") from error

    def _day(self, text: str) -> date:
        numbers = re.fullmatch(r"(\d{1,4})[-./](\d{1,2})[-./](\d{2,4})", text)
        if numbers is None:
            raise ValueError(f"“{text}” is no date. Write it as 2026-05-09.")
        one, two, three = (int(part) for part in numbers.groups())
        try:
            if len(numbers[1]) == 4:
                return date(one, two, three)
            if self._dates is None:
                raise TableError(
                    f"“{text}” may begin with the day or with the month, and no date of this table tells which. Say so."
                )
            year = three + 2000 if three < 100 else three
            return date(year, two, one) if self._dates is Dates.DAY_FIRST else date(year, one, two)
        except ValueError as error:
            raise ValueError(f"“{text}” is no day of any calendar.") from error

    def _rating(self, cells: tuple[str, ...]) -> int:
        text = self._text(cells, "rating")
        if not text:
            return 0
        if set(text) <= set("*★●"):
            return min(len(text), 5)
        try:
            rating = read_number(text)
        except NumberError as error:
            raise ValueError(f"Rating: {error}") from error
        if not 0 <= rating <= 5:
            raise ValueError(f"Rating is {text}, and must be from 0 to 5.")
        return round(rating)

    def _bench(self, cells: tuple[str, ...]) -> BenchKind:
        text = self._text(cells, "bench").casefold()
        return next((kind for kind in BenchKind if kind.value == text), BenchKind.UNKNOWN)

    def _shapes_of(self, text: str) -> tuple[tuple[str, ...], list[str]]:
        """Return the shapes that Ondine knows, and the other words, which are kept as labels."""
        words = _parts(text)
        keys = tuple(dict.fromkeys(self._shapes[w.casefold()] for w in words if w.casefold() in self._shapes))
        return keys, [word for word in words if word.casefold() not in self._shapes]


def _listed(columns: list[str]) -> str:
    names = [f"“{column}”" for column in columns]
    return f"{', '.join(names[:-1])} and {names[-1]}" if len(names) > 1 else names[0]


def _parts(text: str) -> list[str]:
    return [part for part in (" ".join(part.split()) for part in re.split(r"[;,]", text)) if part]


def _clock(text: str) -> tuple[time, tzinfo | None]:
    """Read a time of day, midnight where there is none, and its zone. Raises ValueError."""
    if not text:
        return time(), None
    found = re.fullmatch(
        r"(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,](\d{1,6}))?)?\s*([ap]\.?m\.?)?\s*(Z|[+-]\d{2}:?\d{2})?", text, re.I
    )
    if found is None:
        raise ValueError(f"“{text}” is no time of day. Write it as 19:40:05.")
    hour, minute, second = int(found[1]), int(found[2]), int(found[3] or 0)
    if found[5]:
        if not 1 <= hour <= 12:
            raise ValueError(f"“{text}” is no time of day. With AM and PM the hours go from 1 to 12.")
        hour = hour % 12 + (12 if found[5].lower().startswith("p") else 0)
    micro = int((found[4] or "0").ljust(6, "0"))
    zone = datetime.strptime(found[6].replace("Z", "+0000").replace(":", ""), "%z").tzinfo if found[6] else None
    try:
        return time(hour, minute, second, micro), zone
    except ValueError as error:
        raise ValueError(f"“{text}” is no time of day. Write it as 19:40:05.") from error


def _told_dates(texts: list[str]) -> Dates | None:
    """Tell whether dates begin with the day, by one whose other number is none of a month; None if none tells."""
    firsts, seconds = [], []
    for text in texts:
        found = re.match(r"(\d{1,2})[-./](\d{1,2})[-./]\d{2,4}", text.removeprefix("'"))
        if found:
            firsts.append(int(found[1]))
            seconds.append(int(found[2]))
            if "." in found[0]:
                # With points they are only ever written so.
                return Dates.DAY_FIRST
    if any(n > 12 for n in firsts):
        return Dates.DAY_FIRST
    return Dates.MONTH_FIRST if any(n > 12 for n in seconds) else None


def meaning_of(text: str) -> tuple[str, Meaning]:
    """Read one line of a column map, as “flash1=Flash delay, µs”: the column, and what it means. Raises TableError.

    The field `ASIDE` is for a column that means nothing.
    """
    field, sign, rest = text.partition("=")
    column, _, unit = rest.rpartition(",")
    units = {"ms": Unit.MS, "s": Unit.S, "us": Unit.US, "µs": Unit.US}
    if not sign or field.strip() not in (*BY_KEY, ASIDE) or not rest.strip():
        raise TableError(
            f"“{text}” is no map of a column. Write “flash1=Flash delay”; it can be: {', '.join((*BY_KEY, ASIDE))}."
        )
    if column and unit.strip() in units:
        return column.strip(), Meaning(field.strip(), units[unit.strip()])
    return rest.strip(), Meaning(field.strip())
