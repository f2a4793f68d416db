"""Fields over one value of a set-up each: numbers in the unit chosen, choices, yes or no, words, colours.

Every field has `display(value)`, which never echoes, and a signal `edited(value)` for what a hand made of it.
"""

from __future__ import annotations

from enum import StrEnum

from PySide6.QtCore import QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QValidator
from PySide6.QtWidgets import QApplication, QColorDialog, QComboBox, QDoubleSpinBox, QLineEdit, QPushButton, QSizePolicy

from ondine.core.numbers import NumberError, number_words, read_number
from ondine.core.units import Quantity
from ondine.ui.kit.saying import say
from ondine.ui.kit.theme import BODY_PX, font

FAR = 1e9
"""Any number may be typed: the core says in words what cannot be."""

FIELD_PX = 32


class QuantityField(QDoubleSpinBox):
    """A number with its unit. Arrows and wheel go by the fine step, with Shift or Page keys by the coarse one.

    Typed or pasted, it is read as `core.numbers` reads it, whatever the system's language; what is no number is said
    in a sentence, and the value stays.
    """

    edited = Signal(object)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._how = Quantity("")
        self._inside: float | None = None
        self.setAccessibleName(name)
        self.setRange(-FAR, FAR)
        self.setDecimals(self._how.decimals)
        self.setKeyboardTracking(False)
        self.setFont(font(BODY_PX))
        self.setMinimumHeight(FIELD_PX)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.valueChanged.connect(self._changed)

    # Reading and writing

    def _read(self, text: str) -> float:
        """Return the number in the field's text. Raises NumberError."""
        if self.specialValueText() and text.removesuffix(self.suffix()).strip() == self.specialValueText():
            return self.minimum()
        number = read_number(text.removeprefix(self.prefix()), self._how.unit)
        if not self.minimum() <= number <= self.maximum():
            raise NumberError(
                f"{self._words(number)} is outside what this can be, {self._words(self.minimum())} to "
                f"{self._words(self.maximum())}."
            )
        return number

    def _words(self, number: float) -> str:
        return f"{number_words(number, self._how.decimals)} {self._how.unit}".strip()

    def validate(self, text: str, position: int) -> tuple[QValidator.State, str, int]:
        """See QAbstractSpinBox. Nothing that is typed is swallowed: it is read when it is finished."""
        try:
            self._read(text)
        except NumberError:
            return QValidator.State.Intermediate, text, position
        return QValidator.State.Acceptable, text, position

    def valueFromText(self, text: str) -> float:
        """See QDoubleSpinBox."""
        try:
            return self._read(text)
        except NumberError:
            return self.value()

    def textFromValue(self, value: float) -> str:
        """See QDoubleSpinBox."""
        return number_words(value, self.decimals())

    def fixup(self, text: str) -> str:
        """See QAbstractSpinBox: the text is finished and no number. The value stays, and that is said."""
        try:
            self._read(text)
        except NumberError as error:
            say(self, f"{self.accessibleName()}: {error} It stays {self._words(self.value())}.")
        return text

    def sizeHint(self) -> QSize:
        """Room for a usual number: Qt would make room for the largest that may be typed."""
        return QSize(110, FIELD_PX)

    def minimumSizeHint(self) -> QSize:
        """The least room."""
        return QSize(76, FIELD_PX)

    def show_as(self, how: Quantity) -> None:
        """Show numbers in another unit; the value inside stays untouched."""
        if how == self._how:
            return
        self._how = how
        with QSignalBlocker(self):
            self.setDecimals(how.decimals)
            self.setSuffix(f" {how.unit}" if how.unit else "")
            self.setSingleStep(how.fine)
            if self._inside is not None:
                self.setValue(how.shown(self._inside))

    def display(self, value: object) -> None:
        """Show a value that came from elsewhere."""
        assert isinstance(value, int | float)
        if value == self._inside:
            return
        self._inside = float(value)
        with QSignalBlocker(self):
            self.setValue(self._how.shown(self._inside))

    def _changed(self, shown: float) -> None:
        self._inside = self._how.inside(shown)
        self.edited.emit(self._inside)

    def stepBy(self, steps: int) -> None:
        """Page keys count ten steps in Qt; here they are the coarse step."""
        if abs(steps) == 10:
            self.setValue(self.value() + (self._how.coarse if steps > 0 else -self._how.coarse))
        else:
            super().stepBy(steps)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Shift with an arrow is the coarse step."""
        vertical = event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down)
        if vertical and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.stepBy(10 if event.key() == Qt.Key.Key_Up else -10)
            return
        super().keyPressEvent(event)


class WholeField(QuantityField):
    """A number that is whole inside: microseconds, pixels, ISO."""

    def _changed(self, shown: float) -> None:
        self._inside = round(self._how.inside(shown))
        self.edited.emit(self._inside)


class ChoiceField(QComboBox):
    """One of a few words."""

    edited = Signal(object)

    def __init__(self, name: str, choices: type[StrEnum]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setMinimumHeight(FIELD_PX)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(6)
        self._choices = list(choices)
        self.addItems([getattr(choice, "says", str(choice)) for choice in self._choices])
        self.activated.connect(lambda index: self.edited.emit(self._choices[index]))

    def display(self, value: object) -> None:
        """Show a choice."""
        self.setCurrentIndex(self._choices.index(value))  # type: ignore[arg-type]


class YesNoField(QPushButton):
    """Yes or no, as a word that is pressed in."""

    edited = Signal(object)

    def __init__(self, name: str) -> None:
        super().__init__("no")
        self.setObjectName("yes-no")
        self.setAccessibleName(name)
        self.setCheckable(True)
        self.setMinimumHeight(FIELD_PX)
        self.clicked.connect(self.display)
        self.clicked.connect(lambda on: self.edited.emit(on))

    def display(self, value: object) -> None:
        """Show yes or no."""
        self.setChecked(bool(value))
        self.setText("yes" if value else "no")


class WordField(QLineEdit):
    """A line of words."""

    edited = Signal(object)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setMinimumHeight(FIELD_PX)
        self.setMaxLength(200)
        self._shown = ""
        self.editingFinished.connect(self._done)

    def display(self, value: object) -> None:
        """Show words."""
        self._shown = str(value)
        if not self.hasFocus():
            self.setText(self._shown)

    def _done(self) -> None:
        if self.text() != self._shown:
            self._shown = self.text()
            self.edited.emit(self.text())


class ColourField(QPushButton):
    """A colour, shown as itself and by its number."""

    edited = Signal(object)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._name = name
        self._colour = "#ffffff"
        self.setMinimumHeight(FIELD_PX)
        self.clicked.connect(self._choose)

    def display(self, value: object) -> None:
        """Show a colour."""
        self._colour = str(value)
        self.setText(self._colour)
        self.setAccessibleName(f"{self._name}: {self._colour}")
        pale = QColor(self._colour).lightnessF() > 0.5
        # In the dark room a patch of colour would be a lamp: its number has to do.
        self.setStyleSheet("" if self._dark() else f"background: {self._colour}; color: {'#000' if pale else '#fff'};")

    def _dark(self) -> bool:
        return QApplication.palette().window().color().lightnessF() < 0.1

    def _choose(self) -> None:
        chosen = QColorDialog.getColor(QColor(self._colour), self, self._name)
        if chosen.isValid():
            self.edited.emit(chosen.name())
