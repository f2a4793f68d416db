"""What every column of a written log means: one list for the table, the JSON schema, the SQLite file and the docs."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.log.quantities import QUANTITIES

FIGURES = tuple(quantity for quantity in QUANTITIES if quantity.key not in ("drops", "flash_ms", "head_mm", "rating"))
"""The figures of a shot that stand in a written log; those left out stand there anyway, in columns of their own."""


@dataclass(frozen=True)
class Column:
    """A column: its name, its unit (none for text and counts), and what it says. `#` in a name stands for 1, 2, 3."""

    name: str
    unit: str
    says: str


SHOT_COLUMNS = (
    Column("shot", "", "Number of the shot in its logbook, never used again"),
    Column("fired_at_utc", "", "When it was fired, in UTC, ISO 8601, to the millisecond"),
    Column("sitting", "", "Name of the sitting"),
    Column("state", "", "fired, failed, planned, or unknown where a crash came between"),
    Column("bench", "", "What opened the valve: by hand, cable, simulated (no water fell), or unknown"),
)
DROP_COLUMNS = (
    Column("drop#_start_ms", "ms", "When the valve opens for the drop, from the trigger"),
    Column("drop#_open_ms", "ms", "How long it stays open"),
    Column("drop#_valve", "", "Which valve, counted from 1"),
)
FLASH_COLUMNS = (
    Column("flash#_ms", "ms", "When the flash is fired, from the trigger"),
    Column("flash#_output", "", "Which output of the controller, counted from 1"),
)
CAMERA_COLUMNS = (
    Column("shutter_opens_ms", "ms", "When the camera is told to open the shutter, where it was set by hand"),
    Column("mirror_ms", "ms", "When the mirror is told to go up, where it was set by hand"),
    Column("half_press_ms", "ms", "When the release is half pressed, where it was set by hand"),
)
SAID_COLUMNS = (
    Column("shapes", "", "What the picture shows, as keys parted by semicolons"),
    Column("rating", "", "0 to 5"),
    Column("keeper", "", "1 for a shot to keep"),
    Column("labels", "", "The photographer's own words, parted by semicolons"),
    Column("note", "", "The photographer's note"),
    Column("picture", "", "Where the picture lies"),
    Column("setup", "", "Revision of the set-up: its content's address"),
    Column("belief", "", "Revision of what was believed of the rig then"),
    Column("head_mm", "mm", "Liquid over the orifice when it was fired, as reckoned"),
    Column("flash_reports_ms", "ms", "When the bench says that each flash fired, parted by semicolons"),
    Column("report", "", "What the bench said"),
)
FIGURE_COLUMNS = tuple(Column(quantity.key, quantity.unit, quantity.says) for quantity in FIGURES)


def columns_in_words() -> str:
    """Return all columns as a table in Markdown, as docs/log-table.md holds it."""
    lines = ["| column | unit | what it says |", "|---|---|---|"]
    groups = (SHOT_COLUMNS, DROP_COLUMNS, FLASH_COLUMNS, CAMERA_COLUMNS, SAID_COLUMNS, FIGURE_COLUMNS)
    lines += [f"| `{c.name}` | {c.unit} | {c.says} |" for group in groups for c in group]
    return "\n".join(lines) + "\n"
