"""Two themes, one type family, three sizes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Protocol

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from ondine.studio.worker import LOG

SMALL_PX, BODY_PX, LARGE_PX = 12, 14, 30
"""The only three sizes of type."""

GRID_PX = 8
FAMILY = "B612"
FONT_FILES = ("B612-Regular.otf", "B612-Bold.otf")


class Themed(Protocol):
    """A view that is painted in a theme."""

    theme: Theme

    def update(self) -> None:
        """Ask to be painted anew."""


@dataclass(frozen=True)
class Theme:
    """Colours by what they mean. `drops` in the order of the drops; number and dash tell them apart as well."""

    name: str
    air: str
    water: str
    ink: str
    soft_ink: str
    line: str
    faint: str
    water_ink: str
    light: str
    light_text: str
    drops: tuple[str, ...]
    dark: bool

    def colour(self, role: str, alpha: float = 1.0) -> QColor:
        """Return the colour of a role, more or less transparent."""
        return _colour(getattr(self, role), alpha)

    def drop(self, index: int, alpha: float = 1.0) -> QColor:
        """Return the ink of a drop, counted from 0."""
        return _colour(self.drops[index % len(self.drops)], alpha)


@lru_cache(maxsize=256)
def _colour(name: str, alpha: float) -> QColor:
    colour = QColor(name)
    colour.setAlphaF(alpha)
    return colour


DAY = Theme(
    name="day",
    air="#f2f5f4",
    water="#e1ecee",
    ink="#12252d",
    soft_ink="#45575e",
    line="#77888e",
    faint="#c5d2d5",
    water_ink="#1f7180",
    light="#b9540a",
    light_text="#9a4406",
    drops=("#17507c", "#6d2a74", "#2f4d14", "#34434a", "#1f3a9e", "#0b5750", "#54338c", "#4a5560"),
    dark=False,
)

DARKROOM = Theme(
    name="dark-room",
    air="#000000",
    water="#0a0000",
    ink="#f00000",
    soft_ink="#c80000",
    line="#8c0000",
    faint="#3c0000",
    water_ink="#a80000",
    light="#ff0000",
    light_text="#f00000",
    drops=("#d80000", "#b40000", "#960000", "#800000", "#c60000", "#a50000", "#8b0000", "#e40000"),
    dark=True,
)

THEMES = {theme.name: theme for theme in (DAY, DARKROOM)}


def load_fonts() -> None:
    """Register the family that ships with Ondine: made for reading instruments, figures all of one width.

    Where its files are lost, the system's own family has to do: its figures may be of other widths.
    """
    folder = files("ondine") / "assets" / "fonts"
    for name in FONT_FILES:
        try:
            QFontDatabase.addApplicationFontFromData((folder / name).read_bytes())
        except OSError as error:
            LOG.warning("The font %s is missing (%s): install Ondine again to have it.", name, error)


@lru_cache(maxsize=16)
def font(pixels: int = BODY_PX, bold: bool = False) -> QFont:
    """Return the family at one of the three sizes."""
    made = QFont(FAMILY)
    made.setPixelSize(pixels)
    made.setBold(bold)
    return made


def apply(window: QWidget, theme: Theme) -> None:
    """Apply a theme to a window and all that is in it, unless it has it already."""
    if window.property("theme") == theme.name:
        return
    window.setProperty("theme", theme.name)
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    if app.property("theme") != theme.name:
        # Every window hears of these, those that are about to go too.
        app.setProperty("theme", theme.name)
        app.setPalette(_palette(theme))
    # The sheet is the window's: under one of the application's, each part that is put into another is styled anew with
    # all that is in it. And none stands in between: Qt would polish each widget once for every one that it lies in.
    window.setStyleSheet("")
    window.setStyleSheet(_sheet(theme))
    # Of a window that never was polished Qt keeps the sheet when it goes, for the next one at its address.
    window.ensurePolished()


def _palette(theme: Theme) -> QPalette:
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: theme.air,
        QPalette.ColorRole.WindowText: theme.ink,
        QPalette.ColorRole.Base: theme.air,
        QPalette.ColorRole.AlternateBase: theme.water,
        QPalette.ColorRole.Text: theme.ink,
        QPalette.ColorRole.Button: theme.water,
        QPalette.ColorRole.ButtonText: theme.ink,
        QPalette.ColorRole.Highlight: theme.water_ink,
        QPalette.ColorRole.HighlightedText: theme.air,
        QPalette.ColorRole.PlaceholderText: theme.soft_ink,
        QPalette.ColorRole.ToolTipBase: theme.air,
        QPalette.ColorRole.ToolTipText: theme.ink,
    }
    for role, colour in roles.items():
        palette.setColor(role, QColor(colour))
    return palette


def _sheet(t: Theme) -> str:
    # In the dark no message may shine.
    band, on_band = (t.air, t.ink) if t.dark else (t.ink, t.air)
    return f"""
    * {{ font-family: "{FAMILY}"; }}
    QToolTip {{ background: {t.air}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px; }}
    QPushButton {{
        background: transparent; color: {t.ink}; border: 1px solid transparent; border-radius: 4px;
        padding: 4px 8px; min-height: 24px;
    }}
    QPushButton:hover {{ background: {t.faint}; }}
    QPushButton:focus, QComboBox:focus, QLineEdit:focus, QListView:focus {{ border: 2px solid {t.ink}; }}
    QPushButton:checked {{ background: {t.ink}; color: {t.air}; }}
    QPushButton:disabled {{ color: {t.line}; }}
    QPushButton#edged {{ border: 1px solid {t.line}; }}
    QPushButton#over {{ border: 1px solid {t.line}; background: {t.air}; }}
    QPushButton#edged:focus, QPushButton#over:focus {{ border: 2px solid {t.ink}; }}
    QPushButton#tick:focus, QPushButton#yes-no:focus {{ border: 2px solid {t.ink}; }}
    QPushButton#edged:disabled {{ border: 1px solid {t.faint}; }}
    QPushButton#title {{ text-align: left; padding: 0 1px; color: {t.soft_ink}; }}
    QPushButton#title:checked {{ color: {t.air}; padding: 0 4px; }}
    QPushButton#tick {{ text-align: left; padding: 2px 4px; }}
    QPushButton#tick:checked {{ background: transparent; color: {t.soft_ink}; }}
    QPushButton#yes-no:checked {{ background: {t.faint}; color: {t.ink}; font-weight: bold; }}
    QPushButton#yes-no {{ text-align: left; padding: 2px 6px; border: 1px solid {t.line}; }}
    QTableWidget, QListWidget {{ background: transparent; border: 1px solid {t.faint}; color: {t.ink}; }}
    QListWidget::item:selected {{ background: {t.water_ink}; color: {t.air}; }}
    QHeaderView::section {{
        background: transparent; color: {t.soft_ink}; border: none; border-bottom: 1px solid {t.line}; padding: 4px;
    }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QPushButton#fire {{
        background: {t.light if not t.dark else t.faint}; color: {t.air if not t.dark else t.ink};
        border-radius: 8px; border: 2px solid {t.light}; min-height: 76px; min-width: 116px;
    }}
    QPushButton#fire:hover {{ background: {t.light_text if not t.dark else "#600000"}; }}
    QPushButton#fire:focus {{ border: 3px solid {t.ink}; }}
    QPushButton#fire:disabled {{ background: transparent; color: {t.light_text}; }}
    QLineEdit, QComboBox {{
        background: transparent; color: {t.ink}; border: 1px solid {t.line}; border-radius: 4px;
        padding: 2px 6px; min-height: 26px; selection-background-color: {t.water_ink}; selection-color: {t.air};
        placeholder-text-color: {t.soft_ink};
    }}
    QComboBox QAbstractItemView {{ background: {t.air}; color: {t.ink}; border: 1px solid {t.line}; }}
    QAbstractSpinBox QLineEdit {{ border: none; padding: 0; min-height: 0; background: transparent; }}
    QAbstractSpinBox {{
        background: transparent; color: {t.ink}; border: none; border-bottom: 2px solid {t.faint};
        selection-background-color: {t.water_ink}; selection-color: {t.air};
    }}
    QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ width: 0px; }}
    QAbstractSpinBox:hover {{ border-bottom: 2px solid {t.line}; }}
    QAbstractSpinBox:focus {{ border-bottom: 2px solid {t.ink}; }}
    QListView {{ background: transparent; border: 2px solid transparent; outline: none; }}
    QListView#over {{ background: {t.air}; color: {t.ink}; border: 1px solid {t.line}; }}
    QListView#over::item:selected {{ background: {t.water_ink}; color: {t.air}; }}
    QScrollBar:horizontal, QScrollBar:vertical {{ background: transparent; width: 10px; height: 10px; }}
    QScrollBar::handle {{ background: {t.line}; border-radius: 4px; min-width: 32px; min-height: 32px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QFrame#trouble {{ background: {band}; border: 1px solid {t.ink}; border-radius: 4px; }}
    QFrame#trouble QLabel, QLabel#trouble {{ color: {on_band}; padding: 8px 12px; }}
    QFrame#trouble QPushButton {{ color: {on_band}; border: 1px solid {on_band}; margin-right: 12px; }}
    QFrame#trouble QPushButton:focus {{ border: 2px solid {on_band}; }}
    QLabel#soft {{ color: {t.soft_ink}; }}
    """
