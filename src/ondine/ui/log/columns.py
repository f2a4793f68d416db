"""The columns of the log's table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import Qt

from ondine.logbook.records import ShotRecord
from ondine.ui.kit.mark import SIMULATED
from ondine.ui.kit.shot_list import outcome_words

RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True)
class Column:
    """One column: its name, the text of a shot in it, its width in pixels and how it is aligned."""

    name: str
    text: Callable[[ShotRecord], str]
    width_px: int
    alignment: Qt.AlignmentFlag = RIGHT


def _ms(us: int | None) -> str:
    return "" if us is None else f"{us / 1000:g}"


def _interval(shot: ShotRecord) -> str:
    return _ms(next(iter(shot.sequence.intervals_us), None))


def _gap(shot: ShotRecord) -> str:
    drops = shot.sequence.drops
    return _ms(drops[1].start_us - drops[0].end_us) if len(drops) > 1 else ""


def _open(shot: ShotRecord) -> str:
    return " + ".join(_ms(pulse.open_us) for pulse in shot.sequence.drops)


def _flash(shot: ShotRecord) -> str:
    return ", ".join(_ms(flash.at_us) for flash in shot.sequence.flashes)


COLUMNS = (
    Column("Shot", lambda shot: str(shot.id), 64),
    Column("Fired", lambda shot: shot.at.astimezone().strftime("%Y-%m-%d %H:%M:%S"), 158, LEFT),
    Column("Shape", outcome_words, 180, LEFT),
    Column("Rating", lambda shot: "●" * shot.rating, 76, LEFT),
    Column("Open ms", _open, 92),
    Column("Interval ms", _interval, 92),
    Column("Gap ms", _gap, 76),
    Column("Flash ms", _flash, 104),
    Column("Keeper", lambda shot: "keeper" if shot.keeper else "", 68, LEFT),
    Column("Sitting", lambda shot: shot.sitting, 180, LEFT),
    Column("Labels", lambda shot: ", ".join(shot.labels), 110, LEFT),
    Column("Note", lambda shot: shot.note, 260, LEFT),
    Column("Bench", lambda shot: SIMULATED if shot.is_simulated else shot.bench.value, 90, LEFT),
)
