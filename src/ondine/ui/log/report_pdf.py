"""The report of a sitting as a PDF: its table, its shapes, its course, its timings, the best of its pictures and all.

Laid out in pixels of 1/96 inch on A4; text stays text, so that it can be searched and copied.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QBuffer, QMarginsF, QRectF, QSize, Qt
from PySide6.QtGui import QFont, QPageSize, QPainter, QPdfWriter, QPen

from ondine.core.coach.repeating import wilson
from ondine.core.numbers import counted
from ondine.core.setup import Setup
from ondine.core.setup.compare import says
from ondine.core.setup.fields import read
from ondine.core.units import Units, value_words
from ondine.logbook.records import ShotRecord
from ondine.logbook.writing import PDF, check_target, write_whole
from ondine.studio.sitting_report import SittingReport
from ondine.ui.kit.mark import SHORT, SIMULATED, paint_mark
from ondine.ui.kit.pictures import read_picture_at
from ondine.ui.kit.shot_list import timing_words
from ondine.ui.kit.theme import BODY_PX, DAY, LARGE_PX, SMALL_PX, font
from ondine.ui.log.course_paint import height_of, paint_course

WIDE_PX, HIGH_PX, MARGIN_PX = 794, 1123, 56
"""A4 at 96 pixels an inch, and its margin."""

RESOLUTION = 96
SHARPER = 2
"""Pictures are held so much finer than they are laid out."""

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
WRAP = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap

TABLE = (
    "name", "valves.0.nozzle_height_m", "valves.0.orifice_diameter_m", "valves.0.outlet_diameter_m",
    "valves.0.flow_m3_s",
    "mix.glycerine_mass_fraction",
    "mix.milk_mass_fraction", "mix.gum_mass_fraction", "mix.dye_mass_fraction", "mix.temperature_c", "bowl.diameter_m",
    "bowl.depth_m", "camera.name", "camera.magnification", "camera.f_number", "camera.iso", "camera.exposure_s",
    "light.units.0.name", "light.units.0.power",
)  # fmt: skip
"""What of the table is told; shares of nothing are left out."""


def write_report(
    report: SittingReport,
    out: Path,
    progress: Callable[[int, int], None] = lambda done, of: None,
    is_cancelled: Callable[[], bool] = lambda: False,
) -> bool:
    """Write the report; return whether it was written to its end. Raises WriteError.

    progress : called with (pictures done, of); is_cancelled : asked before each. Needs a QGuiApplication.
    """
    check_target(out, PDF)
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(held)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    writer.setResolution(RESOLUTION)
    writer.setTitle(f"{report.sitting.name}, sitting of {report.sitting.started_at.astimezone():%Y-%m-%d}")
    writer.setCreator("Ondine")
    with QPainter(writer) as p:
        pages = _Pages(writer, p, report)
        pages.front()
        whole = pages.pictures(progress, is_cancelled)
    if whole:
        write_whole(out, lambda file: file.write(held.data().data()), PDF)
    return whole


class _Pages:
    """Lays one thing under the other, and begins a new page where there is no room."""

    def __init__(self, writer: QPdfWriter, p: QPainter, report: SittingReport) -> None:
        self._writer, self._p, self._report = writer, p, report
        self._t = DAY
        self._page = 1
        self._y = float(MARGIN_PX)
        self._foot()

    # Rooms

    @property
    def _wide(self) -> float:
        return float(WIDE_PX - 2 * MARGIN_PX)

    def _room(self, high: float) -> QRectF:
        """Take the next room of a height, on a new page if need be."""
        if self._y + high > HIGH_PX - MARGIN_PX:
            self._writer.newPage()
            self._page += 1
            self._y = float(MARGIN_PX)
            self._foot()
        area = QRectF(MARGIN_PX, self._y, self._wide, high)
        self._y += high
        return area

    def _foot(self) -> None:
        area = QRectF(MARGIN_PX, HIGH_PX - MARGIN_PX + 8, self._wide, 20)
        self._write(area, self._report.sitting.name, "soft_ink")
        self._write(area, f"Page {self._page}", "soft_ink", RIGHT)
        if self._report.is_simulated:
            # On every page: a sheet may be taken out.
            self._write(area, "Simulated: no water fell", "ink", Qt.AlignmentFlag.AlignCenter)

    def _write(
        self,
        area: QRectF,
        words: str,
        ink: str = "ink",
        how: Qt.AlignmentFlag | int = LEFT,
        pixels: int = SMALL_PX,
        bold: bool = False,
    ) -> None:
        self._p.setFont(_font(pixels, bold))
        self._p.setPen(self._t.colour(ink))
        self._p.drawText(area, int(how), words)

    def _heading(self, words: str, follows: float) -> None:
        """Begin a part; `follows`: how high what comes under it is at least, so that no heading stands alone."""
        self._y += 14
        if self._y + 24 + follows > HIGH_PX - MARGIN_PX:
            self._y = float(HIGH_PX)
        self._write(self._room(24), words, pixels=BODY_PX, bold=True)

    def _paragraph(self, words: str, ink: str = "ink") -> None:
        self._p.setFont(_font(SMALL_PX))
        bounds = self._p.fontMetrics().boundingRect(QRectF(0, 0, self._wide, 4000).toRect(), int(WRAP), words)
        self._write(self._room(bounds.height() + 6), words, ink, WRAP)

    # The front

    def front(self) -> None:
        """All that is told in words and charts."""
        report, sitting = self._report, self._report.sitting
        self._write(self._room(44), sitting.name, pixels=LARGE_PX, bold=True)
        began, ended = (report.shots[n].at.astimezone() for n in (0, -1))
        where = ", ".join(filter(None, (sitting.place, _room_words(sitting.temperature_c))))
        self._write(self._room(20), f"{began:%Y-%m-%d %H:%M} to {ended:%Y-%m-%d %H:%M}   {where}".rstrip())
        tagged, kept = (sum(test(s) for s in report.shots) for test in (lambda s: bool(s.shapes), lambda s: s.keeper))
        self._write(self._room(20), f"{counted(len(report.shots), 'shot')}, {tagged} tagged, {kept} kept")
        for words in (sitting.note, sitting.preflight):
            if words:
                self._paragraph(words, "soft_ink")
        if report.setup is not None:
            self._table(report.setup)
        self._shapes()
        self._courses()
        self._timings()

    def _table(self, setup: Setup) -> None:
        rows = _table_rows(setup)
        self._heading("The table", 40)
        for first in range(0, len(rows), 2):
            area = self._room(18)
            half = area.width() / 2
            for n, (name, value) in enumerate(rows[first : first + 2]):
                cell = QRectF(area.left() + n * half, area.top(), half - 16, area.height())
                self._write(cell, name, "soft_ink")
                self._write(cell, value, "ink", RIGHT)

    def _shapes(self) -> None:
        counts = self._report.counts
        if not counts:
            return
        self._heading("What the pictures show", 40)
        most = counts[0][1]
        for key, count in counts:
            area = self._room(18)
            self._write(area, self._report.names.get(key, key))
            bar = QRectF(area.left() + 170, area.top() + 4, (area.width() - 230) * count / most, 10)
            self._p.fillRect(bar, self._t.colour("water_ink"))
            self._write(QRectF(bar.right() + 8, area.top(), 60, 18), str(count))

    def _courses(self) -> None:
        if not self._report.courses:
            return
        self._heading("Over the sitting", 100)
        goal = self._report.names.get(self._report.goal or "", "")
        until = max(float(course.minutes[-1]) for course in self._report.courses)
        for course in self._report.courses:
            paint_course(self._p, self._t, self._room(height_of(course)), course, goal, until)

    def _timings(self) -> None:
        self._heading("Timings", 60)
        columns = (0.0, 0.52, 0.64, 0.78, 1.0)
        self._cells(self._room(18), ("Timing", "Shots", "Tagged", "Hits"), columns, "soft_ink")
        for timing in self._report.timings:
            rate = "" if not timing.known else f"{timing.hits}   {_rate_words(timing.hits, timing.known)}"
            cells = timing_words(timing.shot), str(timing.count), str(timing.known), rate
            self._cells(self._room(18), cells, columns, "ink")

    def _cells(self, area: QRectF, cells: Sequence[str], columns: Sequence[float], ink: str) -> None:
        for n, words in enumerate(cells):
            left, right = (area.left() + area.width() * share for share in columns[n : n + 2])
            self._write(QRectF(left, area.top(), right - left - 8, area.height()), words, ink, RIGHT if n else LEFT)

    # The pictures

    def pictures(self, progress: Callable[[int, int], None], is_cancelled: Callable[[], bool]) -> bool:
        """The best of the pictures, two beside each other, then all, small; return False where it was cancelled."""
        best, all_of_them = self._report.best, list(self._report.shots)
        of, done = len(best) + len(all_of_them), 0
        for title, shots, across, lines in (("The best", best, 2, 2), ("All shots", all_of_them, 5, 1)):
            if not shots:
                continue
            wide = (self._wide - 12 * (across - 1)) / across
            high = wide * 2 / 3 + 18 * lines + 10
            self._heading(title, high)
            for first in range(0, len(shots), across):
                row = self._room(high)
                for n, shot in enumerate(shots[first : first + across]):
                    if is_cancelled():
                        return False
                    cell = QRectF(row.left() + n * (wide + 12), row.top(), wide, high)
                    self._picture(shot, cell, lines)
                    done += 1
                    progress(done, of)
        return True

    def _picture(self, shot: ShotRecord, cell: QRectF, lines: int) -> None:
        frame = QRectF(cell.left(), cell.top(), cell.width(), cell.width() * 2 / 3)
        size = QSize(round(frame.width()), round(frame.height())) * SHARPER
        image = None if shot.picture is None else read_picture_at(shot.picture, size)
        if image is not None and not image.isNull():
            fitted = image.size().scaled(frame.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            place = QRectF(0, 0, fitted.width(), fitted.height())
            place.moveCenter(frame.center())
            self._p.drawImage(place, image)
            frame = place
        else:
            self._p.setPen(QPen(self._t.colour("faint"), 1))
            self._p.setBrush(Qt.BrushStyle.NoBrush)
            self._p.drawRect(frame)
            self._write(frame, "no picture", "soft_ink", Qt.AlignmentFlag.AlignCenter)
        if shot.is_simulated:
            paint_mark(self._p, self._t, frame, SIMULATED if lines > 1 else SHORT)
        shapes = ", ".join(self._report.names.get(key, key) for key in shot.shapes)
        under = QRectF(cell.left(), cell.top() + cell.width() * 2 / 3 + 2, cell.width(), 16)
        if lines == 1:
            # Small: the number, and as much of the shapes as has room.
            self._write(under, self._fitted(f"{shot.id}  {shapes}", under.width()))
            return
        rated = f"   {'●' * shot.rating}" if shot.rating else ""
        self._write(under, self._fitted(f"Shot {shot.id}   {timing_words(shot)}{rated}", under.width()))
        words = "   ".join(filter(None, (shapes, shot.note)))
        self._write(under.translated(0, 17), self._fitted(words, under.width()), "soft_ink")

    def _fitted(self, words: str, wide: float) -> str:
        self._p.setFont(_font(SMALL_PX))
        return self._p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(wide))


def _font(pixels: int, bold: bool = False) -> QFont:
    """Return the family without ligatures: what is copied out of a report shall be letters."""
    made = QFont(font(pixels, bold))
    made.setFeature(QFont.Tag("liga"), 0)
    return made


def _table_rows(setup: Setup) -> list[tuple[str, str]]:
    rows = []
    for path in TABLE:
        try:
            value = read(setup, path)
        except (IndexError, AttributeError):
            continue
        if not (path.endswith("fraction") and not value):
            rows.append((says(setup, path), value_words(path, value, Units())))
    return rows


def _room_words(temperature_c: float | None) -> str:
    return "" if temperature_c is None else f"{temperature_c:g} °C in the room"


def _rate_words(hits: int, known: int) -> str:
    share = wilson(hits, known)
    return f"{share.share:.0%} ({share.low:.0%}–{share.high:.0%})"
