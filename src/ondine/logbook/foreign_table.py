"""A table that others wrote: its encoding, its separator, its columns; nothing of what they mean yet."""

from __future__ import annotations

import codecs
import csv
import io
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from itertools import islice
from pathlib import Path

from ondine.core.numbers import counted
from ondine.logbook.column_map import numbered
from ondine.logbook.door import DoorError, read_bytes

MOST_BYTES = 100_000_000
MOST_ROWS = 200_000
MOST_COLUMNS = 500
MOST_CELL = 100_000
SEPARATORS = ";,\t|"
LOOKED_AT = 40
MOST_LOOKED_AT = 50_000
"""So many lines tell the separator, and so many letters of each."""

_BOMS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF32_LE, "utf-32"),
    (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
OLD = "cp1252"
"""What older spreadsheets in the West write where it is no UTF-8."""


class TableError(Exception):
    """A file that is no table, or whose columns cannot be used as asked; the text says why, and what to do."""


@dataclass(frozen=True)
class ForeignTable:
    """The columns by their names, and the rows with the numbers of their lines; each row as long as the header.

    `encoding`, `separator` : as they were found.
    """

    columns: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    encoding: str
    separator: str

    @property
    def words(self) -> str:
        """How the file was read."""
        sign = {"\t": "tabs", ";": "semicolons", ",": "commas", "|": "bars"}[self.separator]
        size = f"{counted(len(self.rows), 'row')}, {counted(len(self.columns), 'column')}"
        return f"{size} parted by {sign}, {self.encoding}"


def read_table(path: Path, is_cancelled: Callable[[], bool] = lambda: False) -> ForeignTable:
    """Read a table of text with one line of column names. Raises TableError, also when it is cancelled."""
    try:
        content = read_bytes(path, MOST_BYTES)
    except DoorError as error:
        raise TableError(f"{path.name} is not read: {error}.") from error
    except OSError as error:
        raise TableError(f"{path} cannot be read ({error.strerror}). See where it lies.") from error
    text, encoding = _decoded(content, path)
    separator = _separator(text, path)
    csv.field_size_limit(MOST_CELL)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, skipinitialspace=True)
    rows: list[tuple[int, tuple[str, ...]]] = []
    columns: tuple[str, ...] = ()
    try:
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if is_cancelled():
                raise TableError(f"{path.name} was not read to the end.")
            if not columns:
                if len(cells) > MOST_COLUMNS:
                    raise TableError(
                        f"{path.name} has {len(cells)} columns, more than the {MOST_COLUMNS} that Ondine reads. Take "
                        "those out that it does not need."
                    )
                columns = _named(cells)
                continue
            padded = [*cells, *[""] * (len(columns) - len(cells))][: len(columns)]
            rows.append((reader.line_num, tuple(cell.strip() for cell in padded)))
            if len(rows) > MOST_ROWS:
                raise TableError(f"{path.name} has more than {MOST_ROWS} rows. Take it in in parts.")
    except csv.Error as error:
        raise TableError(f"{path.name} cannot be read as a table: line {reader.line_num}, {error}.") from error
    if not rows:
        raise TableError(f"{path.name} holds no rows under its column names, so there is nothing to take in.")
    return ForeignTable(columns, tuple(rows), encoding, separator)


def _decoded(content: bytes, path: Path) -> tuple[str, str]:
    encoding = next((name for bom, name in _BOMS if content.startswith(bom)), "")
    if not encoding and b"\0" in content:
        raise TableError(f"{path.name} is no text. Save the sheet as CSV first, then take that in.")
    for name in [encoding] if encoding else ["utf-8", OLD]:
        try:
            return content.decode(name), name.removesuffix("-sig")
        except UnicodeDecodeError:
            continue
    raise TableError(f"{path.name} is written in letters that Ondine does not know. Save it as UTF-8.")


def _separator(text: str, path: Path) -> str:
    """Return the sign that parts the most columns, the same number in most lines."""
    lines = "".join(line[:MOST_LOOKED_AT] for line in islice(io.StringIO(text), LOOKED_AT))
    best, most = "", (0.0, 0)
    for sign in SEPARATORS:
        try:
            counts = [len(row) for row in csv.reader(io.StringIO(lines, newline=""), delimiter=sign) if row]
        except csv.Error:
            continue
        if counts and counts[0] > 1:
            found = (sum(count == counts[0] for count in counts) / len(counts), counts[0])
            if found > most:
                best, most = sign, found
    if not best:
        raise TableError(
            f"{path.name} has no columns that are parted by commas, semicolons, tabs or bars. Save the sheet as CSV."
        )
    return best


def _named(cells: list[str]) -> tuple[str, ...]:
    """Give every column a name of its own: those that share one carry their number."""
    names = [" ".join(cell.split()) or f"column {number}" for number, cell in enumerate(cells, start=1)]
    count = Counter(names)
    return tuple(name if count[name] == 1 else numbered(name, number) for number, name in enumerate(names, start=1))
