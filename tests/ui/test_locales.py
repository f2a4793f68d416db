"""Every field of the window reads numbers as people type them, whatever the system's language, and shows one notation."""

import unicodedata
from collections.abc import Iterator

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QLocale, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from ondine.core.numbers import number_words
from ondine.ui.kit.fields import QuantityField
from ondine.ui.shell import app as ui_app
from ondine.ui.shell.bench_actions import BenchActions
from ondine.ui.table.editor import SetupEditor
from ondine.ui.table.stage_keep import KeepStage
from ondine.ui.table.stages import STAGES
from ondine.ui.table.valve_control import ValveControl
from tests.ui.conftest import Bench

ZERO = {"ar_EG": "ARABIC-INDIC DIGIT ZERO", "hi_IN": "DEVANAGARI DIGIT ZERO"}
LOCALES = ["en_US", "de_DE", "fr_FR", "ar_EG", "hi_IN"]


def as_typed(shown: str, sign: str, locale: str) -> str:
    zero = ord(unicodedata.lookup(ZERO.get(locale, "DIGIT ZERO")))
    return "".join(chr(zero + int(c)) if c.isdigit() else sign if c == "." else c for c in shown)


def put(field: QuantityField, text: str) -> None:
    """Replace what stands in a field, as a hand or the clipboard does."""
    field.setFocus()
    field.selectAll()
    if text.isascii():
        QTest.keyClicks(field, text)
    else:
        QGuiApplication.clipboard().setText(text)
        QTest.keyClick(field, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(field, Qt.Key.Key_Return)


@pytest.fixture(params=LOCALES)
def spoken(request, qtbot, tmp_path, clock, monkeypatch) -> Iterator[tuple[str, list[QuantityField]]]:
    """A window under a locale, and all its fields; what is typed there changes nothing, so that each can be asked."""
    ui_app.application()
    QLocale.setDefault(QLocale(request.param))
    monkeypatch.setattr(SetupEditor, "edit", lambda *_: True)
    monkeypatch.setattr(BenchActions, "_compose", lambda *_: None)
    monkeypatch.setattr(KeepStage, "_describe", lambda *_, **__: None)
    monkeypatch.setattr(ValveControl, "set_weighing", lambda *_, **__: None)
    made = Bench(tmp_path, clock)
    qtbot.addWidget(made.window)
    made.window.show()
    for stage in STAGES:
        made.window.side.open_stage(stage.key)
    yield request.param, made.window.findChildren(QuantityField)
    QLocale.setDefault(QLocale.c())
    made.window.close()


def test_every_field_reads_comma_and_point_alike(spoken):
    locale, fields = spoken
    assert len(fields) > 80
    heard: list[object] = []

    def ask(field: QuantityField, number: float, sign: str) -> None:
        field.setEnabled(True)
        # Within what the field can be, with room for another number beside it.
        number = min(max(number, field.minimum()), field.maximum() - 1)
        shown = number_words(number, field.decimals())
        # Something else first: the same number again is no edit.
        other = number_words(number + 1, field.decimals())
        for text in (other, shown):
            heard.clear()
            put(field, as_typed(text, sign, locale))
        name = f"{field.accessibleName()} under {locale}: {as_typed(shown, sign, locale)}"
        assert heard, name
        assert field._how.shown(heard[-1]) == pytest.approx(float(shown), abs=0.51 * 10**-field._how.decimals), name
        assert field.text().removeprefix(field.prefix()) == f"{shown}{field.suffix()}", name

    for index, field in enumerate(fields):
        connection = field.edited.connect(heard.append)
        ask(field, 12.5 if field.decimals() else 12, ".,"[index % 2])
        field.edited.disconnect(connection)

    @settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
    @given(st.sampled_from(fields), st.floats(1, 900), st.sampled_from(".,٫"))
    def asked_at_random(field: QuantityField, number: float, sign: str) -> None:
        connection = field.edited.connect(heard.append)
        ask(field, round(number, field.decimals()), sign)
        field.edited.disconnect(connection)

    asked_at_random()


@pytest.mark.parametrize("typed", ["1.234,5", "12 s", "x", "", "1 2"])
def test_what_no_field_can_mean_is_said_and_the_value_stays(bench, qtbot, typed):
    flash = bench.window.bench.numbers.flash
    before = flash.text()
    flash.setFocus()
    flash.selectAll()
    QTest.keyClick(flash, Qt.Key.Key_Delete)
    QTest.keyClicks(flash, typed)
    QTest.keyClick(flash, Qt.Key.Key_Return)
    assert flash.text() == before and bench.studio.composer.sequence.first_flash_us == 356_000
    said = bench.window.messages.text()
    assert said.startswith("Flash delay: ") and said.endswith("It stays 356.0 ms.")


def test_a_time_that_no_sequence_can_have_is_said_with_its_limits(bench):
    put(bench.window.bench.numbers.flash, "99999999")
    assert "outside what this can be, 0.0 ms to" in bench.window.messages.text()
    assert bench.studio.composer.sequence.first_flash_us == 356_000


def test_nothing_is_said_of_a_field_that_is_only_passed_by(bench, qtbot):
    fields = [bench.window.bench.numbers.flash, bench.window.bench.numbers.interval]
    for key in ("flash", "valve"):
        bench.window.side.open_stage(key)
        fields += [f for f in bench.window.side.page.stages[key].panel.findChildren(QuantityField) if f.isVisible()]
    assert any(field.specialValueText() == field.text() for field in fields)
    for field in fields:
        field.setFocus()
        QTest.keyClick(field, Qt.Key.Key_Tab)
    assert not bench.window.messages.isVisible() and bench.studio.composer.sequence.first_flash_us == 356_000
