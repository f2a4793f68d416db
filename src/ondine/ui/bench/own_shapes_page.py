"""Shapes of one's own: those there are, and one more, with its name, key and glyph."""

from __future__ import annotations

import string
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ondine.ui.kit.glyphs import OWN_GLYPHS, glyph
from ondine.ui.kit.own_shapes import own_shapes
from ondine.ui.kit.parts import button, words
from ondine.ui.kit.tag_board import ShapeButton
from ondine.ui.kit.theme import DAY, GRID_PX, Theme

if TYPE_CHECKING:
    # SQLAlchemy stands behind it.
    from ondine.logbook.own_shapes import OwnShapeRecord

FIRST = (
    "What you see again and again and no letter names, you can name here. It gets a key, pressed together with Shift, "
    "and a glyph; search, log and atlas know it from then on."
)
ACROSS = 6
GLYPH_PX = 28


class OwnShapesPage(QScrollArea):
    """Emits `toggled(key)` to tag the shot in view, `added(name, letter, glyph)` and `forgotten(key)`."""

    toggled = Signal(str)
    added = Signal(str, str, str)
    forgotten = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme: Theme = DAY
        self._tags: tuple[str, ...] = ()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Your shapes")
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the new shape")
        self.name.setPlaceholderText("For example twin crown")
        self.name.setMaxLength(40)
        self.letter = QComboBox()
        self.letter.setAccessibleName("Key of the new shape")
        self.glyphs = QButtonGroup(self)
        self.add = button("Add this shape", "Tag with it at once, from any page that tags", self._add)
        self.name.returnPressed.connect(self._add)
        self.said = words("")
        self.rows = QVBoxLayout()
        self.rows.setSpacing(GRID_PX // 2)
        self.tags: dict[str, ShapeButton] = {}
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, GRID_PX, 0)
        column.setSpacing(GRID_PX)
        column.addWidget(words(FIRST))
        column.addLayout(self.rows)
        line = QHBoxLayout()
        line.addWidget(self.name, 1)
        line.addWidget(self.letter)
        column.addLayout(line)
        column.addLayout(self._glyph_grid())
        column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.said)
        column.addStretch(1)
        self.setWidget(body)
        self.show_own()

    def _glyph_grid(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setSpacing(2)
        for n, name in enumerate(OWN_GLYPHS):
            choice = QPushButton()
            choice.setCheckable(True)
            choice.setFixedSize(44, 36)
            choice.setIconSize(QSize(GLYPH_PX, GLYPH_PX))
            choice.setAccessibleName(f"Glyph: {name}")
            choice.setToolTip(name)
            choice.setProperty("glyph", name)
            choice.setChecked(n == 0)
            self.glyphs.addButton(choice)
            grid.addWidget(choice, n // ACROSS, n % ACROSS)
        grid.setColumnStretch(ACROSS, 1)
        return grid

    def show_own(self) -> None:
        """Show one's own shapes as they are now."""
        while (item := self.rows.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self.tags = {}
        taken = {own.letter for own in own_shapes()}
        for own in own_shapes():
            self.rows.addWidget(self._row(own))
        self.letter.clear()
        for letter in string.ascii_uppercase:
            if letter not in taken:
                self.letter.addItem(f"Shift {letter}", letter)
        self.set_theme(self._theme)
        self.show_tags(self._tags)

    def _row(self, own: OwnShapeRecord) -> QWidget:
        line = QWidget()
        across = QHBoxLayout(line)
        across.setContentsMargins(0, 0, 0, 0)
        tag = ShapeButton(own.letter, own.shape, is_own=True)
        tag.clicked.connect(lambda: self.toggled.emit(own.key))
        forget = QPushButton("Take off")
        forget.setToolTip("No key tags with it any more; shots that have this tag keep it")
        forget.setAccessibleName(f"Take {own.name} off the board")
        forget.clicked.connect(lambda: self.forgotten.emit(own.key))
        across.addWidget(tag, 1)
        across.addWidget(forget)
        self.tags[own.key] = tag
        return line

    def show_tags(self, tags: tuple[str, ...]) -> None:
        """Mark the shapes of the shot in view."""
        self._tags = tags
        for key, tag in self.tags.items():
            tag.setChecked(key in tags)

    def say(self, message: str) -> None:
        """Say why a shape was not added."""
        self.said.setText(message)

    def _add(self) -> None:
        chosen = self.glyphs.checkedButton()
        drawing = str(chosen.property("glyph")) if chosen is not None else next(iter(OWN_GLYPHS))
        self.say("")
        self.added.emit(self.name.text(), str(self.letter.currentData() or ""), drawing)

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self._theme = theme
        for tag in self.tags.values():
            tag.theme = theme
            tag.update()
        ratio = self.devicePixelRatioF()
        for choice in self.glyphs.buttons():
            icon = QIcon()
            for state, ink in ((QIcon.State.Off, theme.ink), (QIcon.State.On, theme.air)):
                icon.addPixmap(glyph(str(choice.property("glyph")), ink, GLYPH_PX, ratio), QIcon.Mode.Normal, state)
            choice.setIcon(icon)
