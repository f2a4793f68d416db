"""The flight chart as a file: SVG or PDF, whose lines stay lines, or PNG."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QMarginsF, QRect, QSizeF, Qt
from PySide6.QtGui import QImage, QImageWriter, QPageSize, QPaintDevice, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

from ondine.logbook.writing import PDF, PNG, Kind, check_target, write_whole
from ondine.ui.bench.flight_chart import FlightChart
from ondine.ui.kit.theme import DAY

SVG = Kind("SVG", (".svg",))
KINDS = (SVG, PDF, PNG)
SHARPER = 3
"""A PNG has so many pixels for each of the window's."""

PX_PER_INCH = 96


def write_chart(chart: FlightChart, out: Path, title: str) -> None:
    """Write the chart as it stands, in the day's colours, by the ending of the file's name. Raises WriteError."""
    check_target(out, *KINDS)
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    match out.suffix.lower():
        case ".svg":
            _draw(chart, _svg(chart, held, title))
        case ".pdf":
            _draw(chart, _pdf(chart, held, title))
        case _:
            image = QImage(chart.size() * SHARPER, QImage.Format.Format_RGB32)
            image.setDevicePixelRatio(SHARPER)
            image.fill(Qt.GlobalColor.white)
            _draw(chart, image)
            QImageWriter(held, QByteArray(b"png")).write(image)
    content = held.data().data()
    write_whole(out, lambda file: file.write(content), *KINDS)


def _svg(chart: FlightChart, held: QBuffer, title: str) -> QSvgGenerator:
    made = QSvgGenerator()
    made.setOutputDevice(held)
    made.setSize(chart.size())
    made.setViewBox(QRect(0, 0, chart.width(), chart.height()))
    made.setResolution(PX_PER_INCH)
    made.setTitle(title)
    return made


def _pdf(chart: FlightChart, held: QBuffer, title: str) -> QPdfWriter:
    made = QPdfWriter(held)
    inches = QSizeF(chart.size()) / PX_PER_INCH
    made.setPageSize(QPageSize(inches, QPageSize.Unit.Inch, "", QPageSize.SizeMatchPolicy.ExactMatch))
    made.setPageMargins(QMarginsF(0, 0, 0, 0))
    made.setResolution(PX_PER_INCH)
    made.setTitle(title)
    made.setCreator("Ondine")
    return made


def _draw(chart: FlightChart, device: QPaintDevice) -> None:
    """Draw all of the chart, with nothing selected: a picture has no hand."""
    if chart.prediction is None:
        return
    with QPainter(device) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        brush = replace(
            chart.brush(painter, chart.prediction), theme=DAY, chosen=frozenset(), focused=False, labels_lay={}
        )
        brush.paint_scales()
        brush.paint_parts(brush.parts())
        brush.paint_flash()
