"""What the tests of the window do with mouse, keyboard and eye."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

PRESS = Qt.MouseButton.LeftButton


def drag(view: QWidget, start: QPointF, end: QPointF) -> None:
    """Drag from one place to another in a few moves."""
    QTest.mousePress(view, PRESS, pos=start.toPoint())
    for share in (0.25, 0.5, 0.75, 1.0):
        QTest.mouseMove(view, (start + (end - start) * share).toPoint())
    QTest.mouseRelease(view, PRESS, pos=end.toPoint())


def drag_handle(drawing, key: str, by: QPointF) -> None:
    """Drag a handle of the rig drawing."""
    drag(drawing, drawing.place(key), drawing.place(key) + by)


def place(chart, time_us: int, lane: int) -> QPointF:
    """Where a time lies in a lane of the flight chart."""
    return QPointF(chart.time_scale.x(time_us / 1e6), chart.lanes().top + chart.lanes().px * (lane + 0.5))


def opened(bench, key: str):
    """Open a stage of the table."""
    bench.window.side.open_stage(key)
    QTest.qWait(20)
    return bench.window.side.page.stages[key]


def typed(field: QWidget, text: str) -> None:
    """Type into a field and confirm."""
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def grabbed(window: QWidget) -> np.ndarray:
    image = window.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3) / 255
