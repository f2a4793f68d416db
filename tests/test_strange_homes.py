"""Homes, languages and installations as nobody wishes them: the program says a sentence, or works."""

import os
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

from ondine.ui.kit import theme


def started(tmp_path: Path, *words: str, **strange: str) -> subprocess.CompletedProcess[str]:
    homes = {f"XDG_{what}_HOME": str(tmp_path / what.lower()) for what in ("DATA", "STATE", "CONFIG")}
    return subprocess.run(
        [sys.executable, "-m", "ondine", "--screenshot", str(tmp_path / "shot.png"), *words],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen", **homes, **strange},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )


@pytest.mark.parametrize("locale", ["de_DE.UTF-8", "xx_XX.UTF-8", "C", "ar_EG.UTF-8"])
def test_any_language_of_the_system_shows_the_same_window(tmp_path, locale):
    done = started(tmp_path, LANG=locale, LC_ALL=locale, LANGUAGE=locale)
    assert done.returncode == 0 and "Traceback" not in done.stderr, done.stderr
    with Image.open(tmp_path / "shot.png") as image:
        colours = image.convert("RGB").getcolors(1 << 24)
    assert colours is not None and len(colours) > 20


def test_a_home_that_takes_nothing_is_said_in_a_sentence(tmp_path):
    done = started(tmp_path, XDG_DATA_HOME="/proc/nothing")
    assert done.returncode == 2 and "Traceback" not in done.stderr
    assert "cannot be made" in done.stderr and "Choose another place" in done.stderr


def test_where_only_the_state_cannot_be_kept_the_rest_works(tmp_path):
    done = started(tmp_path, XDG_STATE_HOME="/proc/nothing", XDG_CONFIG_HOME="/proc/nothing")
    assert done.returncode == 0 and "Traceback" not in done.stderr, done.stderr


def test_a_font_that_is_missing_is_logged_and_the_window_opens(qapp, monkeypatch, caplog):
    monkeypatch.setattr(theme, "FONT_FILES", ("Nowhere.otf", *theme.FONT_FILES))
    monkeypatch.setattr(theme.LOG, "propagate", True)
    theme.load_fonts()
    assert "Nowhere.otf is missing" in caplog.text
