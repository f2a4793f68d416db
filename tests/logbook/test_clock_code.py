"""The clock card's code, photographed well and badly, and read off again."""

from datetime import UTC, datetime, timedelta, timezone

import numpy as np
import pytest
from PIL import Image

from ondine.demo.scenario import SEASON
from ondine.logbook.card import read_card
from ondine.logbook.clock_code import QUIET, code_of, modules_of, read_clock
from tests.cards import frame, photographed

AT = datetime(2026, 5, 9, 20, 15, 30, 250_000, tzinfo=timezone(timedelta(hours=2)))


@pytest.mark.parametrize(
    ("turned", "blur", "share"), [(0, 0, 0.4), (7, 2, 0.4), (90, 0, 0.3), (-25, 3, 0.5), (180, 1, 0.25)]
)
def test_a_photograph_tells_the_time_that_the_card_showed(tmp_path, turned, blur, share):
    found = read_clock(photographed(tmp_path / "a.jpg", AT, turned=turned, blur=blur, share=share))
    assert found == AT and found.utcoffset() == timedelta(0)


def test_nothing_else_is_a_clock(tmp_path):
    assert read_clock(SEASON / "060.jpg") is None
    (tmp_path / "odd.jpg").write_bytes(b"\xff\xd8\xff")
    assert read_clock(tmp_path / "odd.jpg") is None
    other = np.where(modules_of("https://example.org"), 0, 255).astype(np.uint8)
    Image.fromarray(other).resize((900, 900), Image.Resampling.NEAREST).save(tmp_path / "other.png")
    assert read_clock(tmp_path / "other.png") is None
    bad = np.where(modules_of("ondine clock yesterday"), 0, 255).astype(np.uint8)
    Image.fromarray(bad).resize((900, 900), Image.Resampling.NEAREST).save(tmp_path / "bad.png")
    assert read_clock(tmp_path / "bad.png") is None


def test_the_code_has_its_quiet_zone():
    dark = modules_of(code_of(AT))
    assert not dark[:QUIET].any() and not dark[:, -QUIET:].any() and dark[QUIET, QUIET]


def test_the_card_is_found_among_the_first_or_last_frames_and_is_no_frame_of_a_splash(tmp_path):
    began = datetime(2026, 5, 9, 18, 0)
    for n in range(20):
        frame(tmp_path / f"IMG_{n:03d}.JPG", began + timedelta(seconds=30 * n), n)
    shown = began + timedelta(minutes=30)
    photographed(tmp_path / "IMG_099.JPG", AT, shown=shown)
    card = read_card(tmp_path)
    assert len(card.frames) == 20
    ((found, at),) = card.clocks
    assert found.path.name == "IMG_099.JPG" and at == AT and found.taken_at == shown.replace(tzinfo=UTC)
