"""The record of the runs on hidden rigs: how deep each went, shot by shot, against its par."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.ui.kit.theme import DAY, SMALL_PX, Theme, font

if TYPE_CHECKING:
    # Nobody practises in the first frame.
    from ondine.studio.practice.book import Run

MOST_SHOWN, LEAST_SHOWN, WIDEST_PX = 40, 8, 48
LEFT_PX, BOTTOM_PX, TOP_PX, MARK_PX = 28, 12, 2, 6
DEEPEST, LEAST_DEEP = 12, 4
"""Runs of more shots are drawn at the lower edge."""

EMPTY = "Your runs will be here, each as deep under the water as it took shots."


class RecordChart(QWidget):
    """One mark for each run: filled where the goal was found without hints, open with them, a cross where it was given
    up; a short line at par.
    """

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self.runs: tuple[Run, ...] = ()
        self.setMinimumHeight(80)
        self.setAccessibleName("Shots needed, run by run")

    def sizeHint(self) -> QSize:
        """Wide and low."""
        return QSize(480, 110)

    def show_runs(self, runs: tuple[Run, ...]) -> None:
        """Show the newest runs that are over."""
        self.runs = tuple(run for run in runs if run.over)[-MOST_SHOWN:]
        told = [f"{run.shots} of par {run.par or 'unknown'}{'' if run.found else ', given up'}" for run in self.runs]
        self.setAccessibleDescription("; ".join(told) or EMPTY)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw scale, par and marks."""
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setFont(font(SMALL_PX))
            field = QRectF(self.rect()).adjusted(LEFT_PX, TOP_PX, -2 * MARK_PX, -BOTTOM_PX)
            if not self.runs:
                p.setPen(self.theme.colour("soft_ink"))
                p.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, EMPTY)
                return
            deepest = min(max([LEAST_DEEP, *(max(run.shots, run.par) for run in self.runs)]), DEEPEST)
            self._draw_scale(p, field, deepest)
            step = min(field.width() / max(len(self.runs), LEAST_SHOWN), WIDEST_PX)
            for place, run in enumerate(self.runs):
                y, par_y = (field.top() + min(n, deepest) / deepest * field.height() for n in (run.shots, run.par))
                x = field.left() + (place + 0.5) * step
                self._draw_run(p, run, QPointF(x, y), par_y if run.par else None, step)

    def _draw_scale(self, p: QPainter, field: QRectF, deepest: int) -> None:
        each = 1 if deepest <= LEAST_DEEP else 2 if deepest <= 2 * LEAST_DEEP else 4
        for shots in range(each, deepest + 1, each):
            y = field.top() + shots / deepest * field.height()
            p.setPen(self.theme.colour("faint"))
            p.drawLine(QPointF(field.left(), y), QPointF(field.right(), y))
            p.setPen(self.theme.colour("soft_ink"))
            room = QRectF(0, y - 9, LEFT_PX - 6, 18)
            p.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(shots))

    def _draw_run(self, p: QPainter, run: Run, at: QPointF, par_y: float | None, step: float) -> None:
        if par_y is not None:
            half = min(step * 0.4, 16)
            p.setPen(QPen(self.theme.colour("soft_ink"), 2))
            p.drawLine(QPointF(at.x() - half, par_y), QPointF(at.x() + half, par_y))
        p.setPen(QPen(self.theme.colour("ink"), 2))
        if not run.found:
            for way in (-1, 1):
                p.drawLine(at + QPointF(-MARK_PX, -MARK_PX * way), at + QPointF(MARK_PX, MARK_PX * way))
            return
        p.setBrush(self.theme.colour("water" if run.hints else "ink"))
        p.drawEllipse(at, MARK_PX, MARK_PX)
