"""A sitting over its time: hits, heights, head, temperature, what fell into the bowl, each as a small chart."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from ondine.core.numbers import counted
from ondine.core.table.course import Course
from ondine.ui.kit.parts import button, words
from ondine.ui.kit.theme import DAY, GRID_PX, Theme
from ondine.ui.log.course_paint import course_words, height_of, paint_course

if TYPE_CHECKING:
    from ondine.studio.sitting_report import SittingReport

NOTHING = "Fire a few shots, and tag them: their course over the sitting is drawn here."


class CourseView(QWidget):
    """The charts, one under the other, over one axis of time."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        self._courses: tuple[Course, ...] = ()
        self._goal = ""
        self.setAccessibleName("Course of the sitting")

    def show_courses(self, courses: tuple[Course, ...], goal: str) -> None:
        """Show other courses. `goal`: the name of the shape that counts as a hit."""
        self._courses, self._goal = courses, goal
        self.setFixedHeight(int(sum(height_of(course) + GRID_PX for course in courses)))
        self.setAccessibleDescription("; ".join(": ".join(course_words(course, goal)) for course in courses))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the charts."""
        if not self._courses:
            return
        until = max(float(course.minutes[-1]) for course in self._courses)
        top = 0.0
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            for course in self._courses:
                area = QRectF(0, top, self.width(), height_of(course))
                paint_course(p, self.theme, area, course, self._goal, until)
                top += height_of(course) + GRID_PX


class SittingPage(QScrollArea):
    """Emits `report_wanted()` for the sitting that is shown."""

    report_wanted = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.report: SittingReport | None = None
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Over the sitting")
        self.head = words("")
        self.view = CourseView()
        self.write = button("Write the report (PDF)", "With the table, the charts and the pictures")
        self.write.clicked.connect(self.report_wanted)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, GRID_PX, 0)
        column.setSpacing(GRID_PX)
        column.addWidget(self.head)
        column.addWidget(self.view)
        column.addWidget(self.write, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        self.setWidget(body)
        self.show_report(None)

    def show_report(self, report: SittingReport | None) -> None:
        """Show another sitting; None while there is none."""
        self.report = report
        self.write.setEnabled(report is not None)
        if report is None:
            self.head.setText(NOTHING)
            self.view.show_courses((), "")
            return
        sitting = report.sitting
        tagged = sum(bool(shot.shapes) for shot in report.shots)
        self.head.setText(
            f"{sitting.name}, {sitting.started_at.astimezone():%Y-%m-%d}\n"
            f"{counted(len(report.shots), 'shot')}, {tagged} tagged"
        )
        self.view.show_courses(report.courses, report.names.get(report.goal or "", ""))

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self.view.theme = theme
        self.view.update()
