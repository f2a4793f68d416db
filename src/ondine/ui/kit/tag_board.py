"""The shapes as keys: three rows that lie as the letters lie on the keyboard."""

from __future__ import annotations

import itertools

from PySide6.QtCore import QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QGridLayout, QPushButton, QWidget

from ondine.core.forecast.shapes import SHAPES, Shape, ShapeGroup
from ondine.ui.kit.glyphs import glyph
from ondine.ui.kit.own_shapes import own_shapes
from ondine.ui.kit.theme import DAY, SMALL_PX, Theme, font

ROWS = {
    ShapeGroup.SINGLE: "QWERTYUIO",
    ShapeGroup.COLLISION: "ASDFGHJKL",
    ShapeGroup.FAULT: "ZXCVBN",
}


def _keys() -> dict[str, Shape]:
    found = {}
    for group, letters in ROWS.items():
        members = [shape for shape in SHAPES if shape.group == group]
        found.update(dict(zip(letters, members, strict=True)))
    return found


SHAPE_KEYS = _keys()
"""Letter to shape: one drop on the upper row, collisions on the home row, faults on the lower row."""

LEAST_CHANCE = 0.02
"""Less than this is not underlined."""

TWO_LINES = {
    "satellites or bubbles": "satellites\nor bubbles",
    "opening umbrella": "opening\numbrella",
    "pass-through": "pass-\nthrough",
}


class ShapeButton(QAbstractButton):
    """One shape: its letter, glyph and name. Checked when the shot in view has it.

    is_own : the letter is pressed together with Shift; is_small : drawn without its name.
    """

    def __init__(
        self,
        letter: str,
        shape: Shape,
        is_own: bool = False,
        is_small: bool = False,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._is_small = is_small
        self.theme: Theme = DAY
        self.letter, self.shape, self._is_own = f"⇧{letter}" if is_own else letter, shape, is_own
        letter = f"Shift {letter}" if is_own else letter
        self.chance = 0.0
        self._shown_px = 0
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"{shape.name}, key {letter}")
        self.setToolTip(f"{shape.name.capitalize()}: press {letter} to tag the shot in view")
        self.setMinimumSize(*(SMALL_CELL_PX if is_small else (88, 34)))

    def sizeHint(self) -> QSize:
        """Nine to a row."""
        return QSize(*SMALL_CELL_PX) if self._is_small else QSize(136, 34)

    def enterEvent(self, event: object) -> None:
        """Redraw for the hover state."""
        self.update()

    def leaveEvent(self, event: object) -> None:
        """Redraw for the hover state."""
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw letter, glyph, name, and the forecast's chance as a line below."""
        with QPainter(self) as p:
            lit = self.isChecked() or self.underMouse() or self.hasFocus()
            if lit or event.rect().top() < self._chance_line().top():
                self._paint_face(p)
            line = self._chance_line()
            line.setWidth(self._chance_px)
            p.fillRect(line, self.theme.colour("water_ink"))

    def show_chance(self, chance: float) -> None:
        """Underline the shape by how likely it is. While a hand drags this is all that is painted of it."""
        self.chance = chance
        if self._chance_px != self._shown_px:
            self._shown_px = self._chance_px
            self.update(self._chance_line())

    @property
    def _chance_px(self) -> int:
        return round(self._chance_line().width() * self.chance) if self.chance > LEAST_CHANCE else 0

    def _chance_line(self) -> QRect:
        return QRect(6, self.height() - 3, self.width() - 12, 2)

    def _paint_face(self, p: QPainter) -> None:
        t = self.theme
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        on = self.isChecked()
        if on or self.underMouse():
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.colour("ink") if on else t.colour("faint"))
            p.drawRoundedRect(area, 4, 4)
        ink = "air" if on else "ink"
        p.setFont(font(SMALL_PX, bold=True))
        p.setPen(t.colour("air" if on else "soft_ink"))
        if self._is_small:
            self._paint_small(p, getattr(t, ink))
        else:
            self._paint_large(p, ink)
        if self.hasFocus():
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(t.colour("ink"), 2))
            p.drawRoundedRect(area, 4, 4)

    def _paint_small(self, p: QPainter, ink: str) -> None:
        """The letter over the glyph."""
        p.drawText(QRectF(0, 0, self.width(), 15), Qt.AlignmentFlag.AlignCenter, self.letter)
        # At the large board's size: that picture is there already.
        side = GLYPH_PX
        p.drawPixmap((self.width() - side) // 2, 15, glyph(self.shape.key, ink, side, self.devicePixelRatio()))

    def _paint_large(self, p: QPainter, ink: str) -> None:
        t = self.theme
        p.drawText(QRectF(0, 0, 24, self.height()), Qt.AlignmentFlag.AlignCenter, self.letter)
        p.drawPixmap(
            24,
            (self.height() - GLYPH_PX) // 2,
            glyph(self.shape.key, getattr(t, ink), GLYPH_PX, self.devicePixelRatio()),
        )
        p.setFont(font(SMALL_PX))
        p.setPen(t.colour(ink))
        room = QRectF(50, 0, self.width() - 52, self.height())
        name = self.shape.name
        if p.fontMetrics().horizontalAdvance(name) > room.width():
            name = TWO_LINES.get(name, name.replace(" ", "\n", 1))
        p.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, name)


GLYPH_PX = 22
SMALL_CELL_PX = 33, 38

MOST_OWN = 2
"""So many of one's own shapes have room on the board; all of them are on their page."""


class TagBoard(QWidget):
    """All shapes; emits `toggled(key)` when one is pressed, and `own_wanted()` for the page of one's own.

    has_own : whether one's own shapes may be among them; is_small : without names, which hovering shows.
    """

    toggled = Signal(str)
    own_wanted = Signal()

    def __init__(self, has_own: bool = True, is_small: bool = False, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._is_small = is_small
        self.buttons: dict[str, ShapeButton] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(0 if is_small else 4)
        grid.setVerticalSpacing(2)
        for row, letters in enumerate(ROWS.values()):
            for column, letter in enumerate(letters):
                self._add(ShapeButton(letter, SHAPE_KEYS[letter], is_small=is_small), grid, row, column)
        for column in range(9):
            grid.setColumnStretch(column, 1)
        self.grid = grid
        self._theme: Theme = DAY
        self._tags: tuple[str, ...] = ()
        self._is_enabled = True
        self._own: list[ShapeButton] = []
        self.more = QPushButton("…" if is_small else "Your shapes", self)
        self.more.setAccessibleName("Your shapes")
        if is_small:
            self.more.setFixedSize(*SMALL_CELL_PX)
        self.more.setFont(font(SMALL_PX))
        self.more.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.more.setToolTip("Shapes of your own, with a key and a glyph  Ctrl Shift T")
        self.more.clicked.connect(self.own_wanted)
        self.more.setVisible(has_own)
        if has_own:
            grid.addWidget(self.more, len(ROWS) - 1, 8)

    def _add(self, button: ShapeButton, grid: QGridLayout, row: int, column: int) -> None:
        button.clicked.connect(lambda _=False, key=button.shape.key: self.toggled.emit(key))
        self.buttons[button.shape.key] = button
        grid.addWidget(button, row, column)

    def show_own(self) -> None:
        """Show the first of one's own shapes, as they are now."""
        for button in self._own:
            self.grid.removeWidget(button)
            self.buttons.pop(button.shape.key)
            button.deleteLater()
        self._own = []
        free = len(ROWS[ShapeGroup.FAULT])
        for column, own in enumerate(own_shapes()[:MOST_OWN], start=free):
            button = ShapeButton(own.letter, own.shape, is_own=True, is_small=self._is_small)
            button.theme = self._theme
            self._add(button, self.grid, len(ROWS) - 1, column)
            self._own.append(button)
        # Reading order.
        for before, after in itertools.pairwise([*self.buttons.values(), self.more]):
            QWidget.setTabOrder(before, after)
        self.show_tags(self._tags, self._is_enabled)

    def show_tags(self, tags: tuple[str, ...], enabled: bool) -> None:
        """Mark the shapes of the shot in view."""
        self._tags, self._is_enabled = tags, enabled
        for key, button in self.buttons.items():
            button.setChecked(key in tags)
            button.setEnabled(enabled)

    def show_chances(self, chances: dict[str, float]) -> None:
        """Underline each shape by how likely the forecast makes it at the flash."""
        for key, button in self.buttons.items():
            button.show_chance(chances.get(key, 0.0))

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self._theme = theme
        for button in self.buttons.values():
            button.theme = theme
            button.update()
