"""Which column of a table by others means what: guessed from its name, put right by people."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from ondine.core.timing.limits import MAX_DROPS

MOST_FLASHES = 4


class Unit(StrEnum):
    """What times are written in."""

    MS = "ms"
    S = "s"
    US = "µs"


MS_PER = {Unit.MS: 1.0, Unit.S: 1e3, Unit.US: 1e-3}


FIRST_FLASH = ("flash", "flashdelay", "flashtime", "blitz")
"""How the only flash of a table is called."""


@dataclass(frozen=True)
class Field:
    """Something that a column may mean: its key, its name in the window, whether it is a time to be scaled by a unit,
    and the words, without signs and spaces, by which its column is known.
    """

    key: str
    name: str
    is_time: bool = False
    known_as: tuple[str, ...] = ()

    def is_called(self, word: str) -> bool:
        """Whether a column's name, in small letters and figures alone, means this field."""
        return word in self.known_as or word == self.key.replace("_", "")


FIELDS = (
    Field("at", "Date and time", known_as=("firedatutc", "firedat", "datetime", "timestamp", "dateandtime")),
    Field("date", "Date", known_as=("date", "day", "datum")),
    Field("time", "Time of day", known_as=("time", "clock", "uhrzeit", "zeit")),
    Field("sitting", "Sitting", known_as=("sitting", "session", "serie", "series")),
    *(
        field
        for n in range(1, MAX_DROPS + 1)
        for field in (
            Field(f"drop{n}_start", f"Drop {n} starts", True, (f"drop{n}start", f"drop{n}at", f"start{n}")),
            Field(
                f"drop{n}_open", f"Drop {n} open for", True,
                (f"drop{n}open", f"drop{n}size", f"drop{n}duration", f"open{n}", f"size{n}", f"drop{n}"),
            ),
        )
    ),
    Field("open", "All drops open for", True, ("open", "opentime", "dropsize", "size")),
    Field("interval", "Interval, start to start", True, ("interval", "starttostart")),
    Field("gap", "Gap, closing to opening", True, ("gap", "pause", "delaybetweendrops", "dropdelay")),
    *(
        Field(
            f"flash{n}", f"Flash {n} from the trigger", True,
            (f"flash{n}", f"flash{n}delay", f"flash{n}at", *(FIRST_FLASH if n == 1 else ())),
        )
        for n in range(1, MOST_FLASHES + 1)
    ),
    Field("shapes", "Shapes", known_as=("shapes", "shape", "result", "tags")),
    Field("rating", "Rating", known_as=("rating", "stars", "score")),
    Field("keeper", "Keeper", known_as=("keeper", "keep", "pick")),
    Field("labels", "Labels", known_as=("labels", "label", "keywords")),
    Field("note", "Note", known_as=("note", "notes", "comment", "comments", "remark", "notiz", "bemerkung")),
    Field("bench", "What opened the valve", known_as=("bench",)),
)  # fmt: skip
BY_KEY = {field.key: field for field in FIELDS}

_UNITS = {"ms": Unit.MS, "msec": Unit.MS, "s": Unit.S, "sec": Unit.S, "us": Unit.US, "µs": Unit.US, "μs": Unit.US}
_UNIT = re.compile(r"[\s_(\[]+(msec|ms|sec|us|µs|μs|s)[)\]]?$", re.IGNORECASE)


_NUMBERED = re.compile(r" \[column \d+\]$")


@dataclass(frozen=True)
class Meaning:
    """What a column means; `unit` counts for times alone."""

    field: str
    unit: Unit = Unit.MS


ASKED = "?"
"""What a column means whose name does not decide it: somebody has to say so before the table is taken in."""


def guess(columns: Sequence[str]) -> dict[str, Meaning]:
    """Return what columns may mean, by their names; those that say nothing are left out.

    Where two columns may mean the same, neither is guessed: both are `ASKED`.
    """
    found: dict[str, Meaning] = {}
    for column in columns:
        said = _UNIT.search(_NUMBERED.sub("", column))
        name = _NUMBERED.sub("", column)
        unit = _UNITS[said[1].lower()] if said else Unit.MS
        word = re.sub(r"[^a-z0-9]", "", (name[: said.start()] if said else name).lower())
        whole = re.sub(r"[^a-z0-9]", "", name.lower())
        field = next((f for f in FIELDS if (f.is_time and f.is_called(word)) or f.is_called(whole)), None)
        if field is not None:
            found[column] = Meaning(field.key, unit)
    count = Counter(meaning.field for meaning in found.values())
    return {
        column: meaning if count[meaning.field] == 1 else Meaning(ASKED, meaning.unit)
        for column, meaning in found.items()
    }


def numbered(name: str, number: int) -> str:
    """Return the name of a column that shares it with another one; number : its place, from 1."""
    return f"{name} [column {number}]"
