"""Naming pictures: what answers are worth, what is said of them; and the pictures themselves."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.bench.simulated.instants import Instant, Phase, instant_of
from ondine.logbook.intake import read_picture
from ondine.studio.events import InstantReady, Trouble
from ondine.studio.practice.gallery import PICTURES, Gallery
from ondine.studio.practice.naming import BESIDE_POINTS, LEAST_POINTS, MOST_POINTS, TIME_S, points, verdict
from ondine.studio.worker import Guard
from tests.studio.conftest import wait_for


@pytest.fixture(scope="module")
def torn() -> Instant:
    one = instant_of(1, 1, "torn-umbrella")
    times = (("opening-umbrella", 0.0, 0.003), ("full-umbrella", 0.0035, 0.008), ("torn-umbrella", 0.0085, 0.014),
             ("collapsed", 0.0145, 0.03))  # fmt: skip
    return Instant(one.rig, one.seed, one.setup, one.sequence.with_flash(0, 11_000), "torn-umbrella",
                   tuple(Phase(*row) for row in times))  # fmt: skip


@given(st.floats(0, 30, allow_nan=False), st.floats(0, 30, allow_nan=False))
def test_the_quicker_the_better_and_never_less_than_half(torn, one_s, other_s):
    quick, slow = (points(torn, "torn-umbrella", taken_s) for taken_s in sorted((one_s, other_s)))
    assert MOST_POINTS >= quick >= slow >= LEAST_POINTS


def test_a_neighbour_counts_a_little_and_anything_else_nothing(torn):
    assert points(torn, "torn-umbrella", 0) == MOST_POINTS and points(torn, "torn-umbrella", TIME_S) == LEAST_POINTS
    assert points(torn, "full-umbrella", 1) == points(torn, "collapsed", 9) == BESIDE_POINTS
    assert points(torn, "opening-umbrella", 1) == points(torn, "crown", 1) == points(torn, None, TIME_S) == 0


def test_what_was_wrong_is_said_in_time(torn):
    assert verdict(torn, "torn-umbrella") == "Right: torn umbrella."
    assert verdict(torn, "full-umbrella").endswith("You said full umbrella: that is 3 ms earlier.")
    assert verdict(torn, "collapsed").endswith("that is 4 ms later.")
    assert "never shows crown" in verdict(torn, "crown") and "Time is up" in verdict(torn, None)


def test_a_round_of_pictures_is_made_in_a_process_of_its_own_and_goes_with_it():
    events: list[object] = []
    gallery = Gallery(events.append, Guard(events.append))
    gallery.begin(1)
    process = gallery._process
    ready = wait_for(lambda: [event for event in events if isinstance(event, InstantReady)], 2, 120)
    assert [one.place for one in ready[:2]] == [0, 1] and ready[0].instant.shape != ready[1].instant.shape
    assert read_picture(ready[0].picture).width_px == 1200
    gallery.close()
    assert not process.is_alive() and not Path(ready[0].picture).exists()
    assert not any(isinstance(event, Trouble) for event in events)


def test_a_process_that_dies_is_told():
    events: list[object] = []
    gallery = Gallery(events.append, Guard(events.append), lambda line, seed, folder: line.close())
    gallery.begin(1)
    (trouble,) = wait_for(lambda: [event for event in events if isinstance(event, Trouble)], 1, 10)
    assert "Begin the round again" in trouble.message
    gallery.close()


def test_an_older_round_is_not_heard_any_more():
    events: list[object] = []
    lines = []
    gallery = Gallery(events.append, Guard(events.append), lambda line, seed, folder: lines.append(line))
    gallery.begin(1)
    closing = [line.close for line in lines]
    gallery._round += 1
    closing[0]()
    gallery.close()
    assert not events and PICTURES == 10


def test_a_full_disk_is_told(monkeypatch):
    def full(**_: object) -> str:
        raise OSError(28, "No space left on device")

    events: list[object] = []
    monkeypatch.setattr("ondine.studio.practice.gallery.tempfile.mkdtemp", full)
    gallery = Gallery(events.append, Guard(events.append))
    gallery.begin(1)
    assert "No space left" in events[0].message
    gallery.close()
