"""One forecast shared by all who draw it, and what they say of it."""

import numpy as np
import pytest

from ondine.core.belief.priors import Belief
from ondine.core.forecast.events import EventKind, events, meeting_events
from ondine.core.forecast.prediction import AFTER_S, GHOSTS, Prediction
from ondine.core.light.flash import duration_of
from ondine.core.setup import Setup
from ondine.core.setup.fields import put
from ondine.core.timing.latency import latency
from ondine.core.timing.sequence import Sequence
from ondine.demo.scenario import ONE, PAIR, START, TIDAL_MILL
from tests.calibrated import TAUGHT

SHOWN = Prediction.of(TIDAL_MILL, TAUGHT, START)


def test_what_is_drawn_while_a_hand_drags_is_part_of_all_that_happens():
    what = SHOWN.forecast
    after = [e for e in events(what) if e.kind in (EventKind.MEETING, EventKind.SHEET_FULL, EventKind.SHEET_GONE)]
    assert meeting_events(what) == SHOWN.course.meetings == after != []
    assert meeting_events(Prediction.of(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(ONE, 300_000)).forecast) == []


@pytest.mark.parametrize("kind", EventKind)
def test_an_event_is_found_by_its_kind(kind):
    known = [e for e in events(SHOWN.forecast) if e.kind is kind]
    assert SHOWN.event(kind) == (known[0] if known else None)


def test_blur_is_speed_times_duration_over_the_pixels_pitch_worst_first():
    half_s = max(duration_of(unit, unit.power).half_s for unit in TIDAL_MILL.light.units)
    pitch = TIDAL_MILL.camera.pixel_on_subject_m
    expected = sorted((e.speed_m_s * half_s / pitch for e in SHOWN.first.outline.edges), reverse=True)
    assert [px for _, px in SHOWN.first.blurs] == pytest.approx(expected, rel=1e-6)


def test_the_words_name_shape_chance_and_meeting():
    shape, share = next(iter(SHOWN.first.shapes.items()))
    meeting = SHOWN.event(EventKind.MEETING)
    for part in (
        f"{START.first_flash_us / 1000:.1f} ms",
        shape.replace("-", " "),
        f"{share:.0%}",
        f"{meeting.time_s.mean * 1e3:.0f} ± {meeting.time_s.sd * 1e3:.0f} ms",
        f"{meeting.height_m.mean * 1e3:.0f} mm up",
    ):
        assert part in SHOWN.in_words()
    alone = Prediction.of(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(ONE, 300_000))
    assert "meets" not in alone.in_words()


@pytest.mark.parametrize("flash_ms", [100, 356, 800])
def test_the_chart_spans_all_that_happens_and_a_little_more(flash_ms):
    shown = Prediction.of(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(PAIR, flash_ms * 1000))
    start, end = shown.span_s(close_up=False)
    last = max(
        [e.time_s.mean for e in shown.course.events if e.kind is not EventKind.JET_GONE] + [flash_ms / 1e3, PAIR[-1].end_us / 1e6]
    )  # fmt: skip
    assert start == 0.0 and last + AFTER_S <= end <= last + AFTER_S + 0.021
    near, same_end = shown.span_s(close_up=True)
    first = min(*[e.time_s.mean for e in shown.course.events if e.kind is EventKind.TOUCHDOWN], flash_ms / 1e3)
    assert same_end == end and first - 0.031 <= near <= first - 0.019
    # In whole hundredths, so that the picture stands still under a small change.
    assert near * 100 == pytest.approx(round(near * 100))


def test_a_table_whose_drops_fall_alike_keeps_the_course_and_shows_the_new_camera():
    closer, falls = put(TIDAL_MILL, "camera.magnification", 0.3), SHOWN.course.falls
    other = Prediction.of(closer, TAUGHT, START, SHOWN)
    assert other.forecast.falls is SHOWN.forecast.falls and other.forecast.setup == closer
    assert other.course.falls is falls
    assert other.first.blurs[0][1] == pytest.approx(SHOWN.first.blurs[0][1] * 0.3 / TIDAL_MILL.camera.magnification)


def test_when_the_shutter_opens_is_known_again_while_only_drops_move():
    moved = Prediction.of(TIDAL_MILL, TAUGHT, START.with_interval(0, 99_000), SHOWN)
    assert moved.latency is SHOWN.latency
    for setup, sequence in (
        (TIDAL_MILL, START.with_flash(0, 300_000)),
        (put(TIDAL_MILL, "triggers.shutter_lag_s", 0.08), START),
    ):
        assert Prediction.of(setup, TAUGHT, sequence, SHOWN).latency == latency(setup, sequence) != SHOWN.latency


def test_ghosts_are_rigs_of_the_sample_and_not_its_mean():
    assert 0 < GHOSTS.start < GHOSTS.stop <= SHOWN.forecast.rigs.count
    assert len(SHOWN.first.ghosts.drops) + len(SHOWN.first.ghosts.sheets) > 0
    assert np.all(np.isfinite(SHOWN.first.ghosts.columns))


def test_moving_the_flash_keeps_the_curves_and_moving_a_drop_does_not():
    first = Prediction.of(TIDAL_MILL, TAUGHT, START)
    flash = Prediction.of(TIDAL_MILL, TAUGHT, START.with_flash(0, 300_000), first)
    assert flash.course.falls is first.course.falls and flash.forecast is first.forecast
    assert flash.first.shapes != first.first.shapes
    moved = Prediction.of(TIDAL_MILL, TAUGHT, START.with_interval(0, 99_000), first)
    assert moved.course.falls is not first.course.falls
    other = Prediction.of(Setup(), TAUGHT, START, first)
    assert other.forecast is not first.forecast
    learned = Prediction.of(TIDAL_MILL, Belief(), START, first)
    assert learned.forecast is not first.forecast
