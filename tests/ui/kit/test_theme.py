import numpy as np
import pytest
import shiboken6
from PySide6.QtGui import QColor, QFontInfo, QFontMetrics, QPalette
from PySide6.QtWidgets import QLineEdit, QWidget

from ondine.ui.kit.theme import BODY_PX, DARKROOM, DAY, FAMILY, LARGE_PX, Theme, apply, font
from ondine.ui.shell.app import application


def luminance(colour: str) -> float:
    """Relative luminance, WCAG 2.2."""
    parts = np.array(QColor(colour).getRgbF()[:3])
    linear = np.where(parts <= 0.04045, parts / 12.92, ((parts + 0.055) / 1.055) ** 2.4)
    return float(linear @ [0.2126, 0.7152, 0.0722])


def contrast(one: str, other: str) -> float:
    a, b = sorted((luminance(one), luminance(other)), reverse=True)
    return (a + 0.05) / (b + 0.05)


def deuteranopia(colour: str) -> np.ndarray:
    """Simulate full deuteranopia in linear RGB: Machado, Oliveira & Fernandes 2009 (matrix from memory)."""
    parts = np.array(QColor(colour).getRgbF()[:3])
    linear = np.where(parts <= 0.04045, parts / 12.92, ((parts + 0.055) / 1.055) ** 2.4)
    seen = np.array([[0.367, 0.861, -0.228], [0.280, 0.673, 0.047], [-0.012, 0.043, 0.969]]) @ linear
    return np.clip(seen, 0, 1)


@pytest.mark.parametrize("ground", [DAY.air, DAY.water])
@pytest.mark.parametrize("role", ["ink", "soft_ink", "water_ink", "light_text"])
def test_day_text_is_readable(role, ground):
    assert contrast(getattr(DAY, role), ground) >= 4.5


@pytest.mark.parametrize("ground", [DAY.air, DAY.water])
def test_day_lines_stand_out(ground):
    for colour in (DAY.line, DAY.light, *DAY.drops):
        assert contrast(colour, ground) >= 3


def test_light_is_the_only_warm_colour_of_the_day():
    warm = [
        name
        for name in ("air", "water", "ink", "soft_ink", "line", "faint", "water_ink", "light", "light_text")
        if QColor(getattr(DAY, name)).redF() > QColor(getattr(DAY, name)).blueF() + 0.05
    ]
    assert warm == ["light", "light_text"]
    assert contrast("#ffffff", DAY.light) >= 3


def test_only_red_is_lit_in_the_dark_room():
    for name in ("air", "water", "ink", "soft_ink", "line", "faint", "water_ink", "light", "light_text"):
        colour = QColor(getattr(DARKROOM, name))
        assert (colour.green(), colour.blue()) == (0, 0)
        assert luminance(colour.name()) < 0.25
    assert contrast(DARKROOM.ink, DARKROOM.air) >= 4.5
    assert contrast(DARKROOM.soft_ink, DARKROOM.water) >= 3


def test_what_a_field_is_for_can_be_read_in_it_in_every_window(qapp):
    """Qt keeps sheets by the windows' addresses, which those that come later may have."""
    application()
    other = QWidget()
    apply(other, DAY)
    for theme in [DAY, DARKROOM] * 10:
        window = QWidget()
        field = QLineEdit(window)
        apply(window, theme)
        field.ensurePolished()
        assert field.palette().color(QPalette.ColorRole.PlaceholderText) == theme.colour("soft_ink")
        assert (field.font().family(), field.font().pixelSize()) == (FAMILY, BODY_PX)
        shiboken6.delete(window)


def test_the_three_sizes_and_tabular_figures(qapp):
    from ondine.ui.kit.theme import load_fonts

    load_fonts()
    made = font(LARGE_PX, bold=True)
    assert QFontInfo(made).family() == FAMILY
    metrics = QFontMetrics(made)
    assert len({metrics.horizontalAdvance(figure) for figure in "0123456789"}) == 1


def test_the_flash_is_told_from_every_drop_without_green(theme: Theme = DAY):
    light = deuteranopia(theme.light)
    for ink in theme.drops:
        assert np.abs(deuteranopia(ink) - light).max() > 0.15
