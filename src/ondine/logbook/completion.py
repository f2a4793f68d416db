"""What a search that is being typed may go on with."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.forecast.shapes import SHAPES
from ondine.core.log.quantities import QUANTITIES, Quantity
from ondine.logbook.query import Flag

MOST_WORDS = 3
"""No name has more words."""

EXAMPLES = {
    "interval_ms": "90-100", "gap_ms": "60-80", "open_ms": "22", "second_open_ms": "22", "flash_ms": "350-360",
    "drops": "2", "after_touchdown_ms": "80-95", "after_meeting_ms": "0-10", "crater_clocks": "2-3",
    "size_ratio": "0.9-1.1", "diameter_mm": "4-5", "height_mm": "365", "head_mm": "80-120", "viscosity_mpa_s": "1-2",
    "temperature_c": "18-22", "power": "1/64", "f_number": "11-22", "iso": "200", "exposure_ms": "500", "rating": ">=4",
}  # fmt: skip


@dataclass(frozen=True)
class LogWords:
    """What a logbook has names for: its shapes, labels, sittings and set-ups."""

    shapes: tuple[str, ...] = tuple(shape.name for shape in SHAPES)
    labels: tuple[str, ...] = ()
    sittings: tuple[str, ...] = ()
    setups: tuple[str, ...] = ()


@dataclass(frozen=True)
class Completion:
    """Texts that may stand in the place of the line from `start` to the cursor."""

    start: int
    texts: tuple[str, ...]


def complete(line: str, cursor: int, words: LogWords, most: int = 12) -> Completion:
    """Return what the words before the cursor may become; the longest run of words that begins a name counts."""
    before = line[:cursor]
    starts = [0, *(place + 1 for place, sign in enumerate(before) if sign == " ")][-MOST_WORDS:]
    offers = _offers(words)
    for start in starts:
        typed = before[start:].lstrip("-").replace('"', "").casefold()
        if not typed.strip():
            continue
        found = tuple(text for name, text in offers if name.casefold().startswith(typed) and name.casefold() != typed)
        if found:
            return Completion(start + len(before[start:]) - len(before[start:].lstrip("-")), found[:most])
    return Completion(cursor, ())


def _offers(words: LogWords) -> list[tuple[str, str]]:
    """Return all names with the text that each is completed to, the likeliest kinds first."""
    named = [(name, name) for name in (*words.shapes, *(flag.value for flag in Flag))]
    figures = [(name, _figure(q, name)) for q in QUANTITIES for name in (q.name, *q.aliases)]
    of_log = [
        (f"{field} {name}", f"{field} {_quoted(name)}")
        for field, names in (("label", words.labels), ("sitting", words.sittings), ("set-up", words.setups))
        for name in names
    ]
    by_itself = [(name, f"label {_quoted(name)}") for name in words.labels]
    by_itself += [(name, f"sitting {_quoted(name)}") for name in words.sittings]
    days = [(day, day) for day in ("today", "yesterday")]
    return [*named, *figures, *by_itself, *of_log, *days]


def _figure(quantity: Quantity, name: str) -> str:
    example = EXAMPLES[quantity.key]
    return f"{name}{example}" if example.startswith(">") else f"{name} {example}"


def _quoted(name: str) -> str:
    plain = name.replace('"', "")
    return f'"{plain}"' if " " in plain else plain
