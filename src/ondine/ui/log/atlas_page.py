"""The atlas with its axes, and what hands can do on it."""

from __future__ import annotations

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ondine.core.log.atlas import Points
from ondine.core.log.quantities import QUANTITIES
from ondine.core.log.regions import Regions
from ondine.core.numbers import counted
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import DAY, GRID_PX, SMALL_PX, font
from ondine.ui.log.atlas_view import AtlasView
from ondine.ui.log.frame_paint import Frames

LOOK_MS = 150
"""A hand that zooms is not answered at each turn of the wheel."""

HANDS = (
    "Draw round shots to see them as a sheet. Wheel zooms, right button pans. Double click takes a shot or a spot; "
    "with Shift, a series from what is in hand to there."
)


class AtlasPage(QWidget):
    """Emits `asked()` when other figures are wanted, and `looked()` when the view has come to rest."""

    asked = Signal()
    looked = Signal()

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.view = AtlasView(Frames(loader, DAY))
        loader.ready.connect(lambda _: self.view.update())
        self.is_foreseen = False
        """Whether the forecast of what is in view has come."""
        self.across = _axis("Figure across", "interval_ms")
        self.up = _axis("Figure upward", "flash_ms")
        self.words = QLabel(HANDS)
        self.words.setObjectName("soft")
        self.words.setFont(font(SMALL_PX))
        self.words.setWordWrap(True)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(LOOK_MS)
        self._wait.timeout.connect(self.looked)
        self.view.viewed.connect(self._look)
        for box in (self.across, self.up):
            box.currentIndexChanged.connect(lambda _: self.asked.emit())
        line = QHBoxLayout()
        line.setSpacing(GRID_PX)
        for widget in (QLabel("Across"), self.across, QLabel("upward"), self.up):
            line.addWidget(widget)
        line.addWidget(self.words, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(line)
        column.addWidget(self.view, 1)

    @property
    def keys(self) -> tuple[str, str]:
        """The two figures, by their keys."""
        return str(self.across.currentData()), str(self.up.currentData())

    def _look(self) -> None:
        self.is_foreseen = False
        self._wait.start()

    def show_regions(self, regions: Regions | None) -> None:
        """Show what the forecast expects."""
        self.is_foreseen = True
        self.view.show_regions(regions)

    def show_points(self, points: Points, x: str, y: str, found: int) -> None:
        """Show shots, and say how many of those `found` have no such figures, or cannot be compared."""
        self.view.show_points(points, x, y)
        without = found - len(points.ids)
        pale = int((~points.comparable).sum())
        said = []
        if pale:
            said.append(
                f"{_shots(pale, 'is', 'are')} pale, fallen from another height: “after touchdown” compares them."
                if "flash_ms" in (x, y)
                else f"{_shots(pale, 'is', 'are')} pale: the time this counts from was not well known when fired."
            )
        if without > 0:
            said.append(f"{_shots(without, 'has', 'have')} no such figures, as one drop has no interval.")
        self.words.setText(" ".join(said) or HANDS)
        self.words.setToolTip(HANDS)


def _shots(count: int, one: str, many: str) -> str:
    return f"{counted(count, 'shot')} {one if count == 1 else many}"


def _axis(name: str, key: str) -> QComboBox:
    box = QComboBox()
    box.setAccessibleName(name)
    for quantity in QUANTITIES:
        unit = f" [{quantity.unit}]" if quantity.unit else ""
        box.addItem(f"{quantity.name}{unit}", quantity.key)
    box.setCurrentIndex(box.findData(key))
    box.setToolTip("\n".join(f"{quantity.name}: {quantity.says}" for quantity in QUANTITIES))
    return box
