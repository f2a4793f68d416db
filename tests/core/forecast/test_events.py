"""The forecast as a list: order, numbers and spreads, against the arrays it is made from and each other."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from ondine.core.forecast.events import LEAST_SHARE, Event, EventKind, events
from ondine.core.forecast.whole import forecast
from ondine.core.physics.meeting import sheet_sinking_m
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import START, TIDAL_MILL
from tests.calibrated import TAUGHT

WHAT = forecast(TIDAL_MILL, TAUGHT, START)
TRIO = forecast(TIDAL_MILL, TAUGHT, Sequence.with_one_flash((*START.drops, Pulse(150_000, 18_000)), 356_000))


def one(kind: EventKind, drop: int = 1, what=WHAT) -> Event:
    (found,) = [e for e in events(what) if e.kind == kind and e.drop == drop]
    return found


def test_drops_are_numbered_from_one_in_the_order_of_their_openings():
    released = [e for e in events(TRIO) if e.kind == EventKind.RELEASE]
    assert [e.drop for e in released] == [1, 2, 3]
    for event in released:
        assert event.time_s.mean == pytest.approx(float(TRIO.falls.release_s[event.drop - 1].mean()), rel=1e-9)
    assert {e.drop for e in events(WHAT) if e.kind == EventKind.MEETING} == {2}
    assert {e.drop for e in events(WHAT) if e.kind in (EventKind.CROWN_TOP, EventKind.JET_RISES)} == {1}


def test_what_follows_comes_after_what_it_follows():
    met, full, gone = (
        one(kind, 2).time_s.mean for kind in (EventKind.MEETING, EventKind.SHEET_FULL, EventKind.SHEET_GONE)
    )
    assert met < full < gone
    assert full - met == pytest.approx(0.51 * (gone - met), rel=0.02)
    touchdown, top, end = (one(k).time_s.mean for k in (EventKind.TOUCHDOWN, EventKind.CROWN_TOP, EventKind.CROWN_END))
    assert touchdown < top < end
    deepest, rises = one(EventKind.CRATER_DEEPEST).time_s.mean, one(EventKind.JET_RISES).time_s.mean
    assert touchdown < deepest < rises < met
    assert one(EventKind.RELEASE).time_s.mean < touchdown


def test_means_and_spreads_are_those_of_the_rigs_that_show_it():
    met = one(EventKind.MEETING, 2)
    times = WHAT.meetings.time_s[1]
    shown = np.isfinite(times)
    assert met.probability == pytest.approx(shown.mean())
    assert met.time_s.mean == pytest.approx(times[shown].mean()) and met.time_s.sd == pytest.approx(times[shown].std())
    assert met.height_m.mean == pytest.approx(WHAT.meetings.height_m[1][shown].mean())
    assert met.speed_m_s.mean == pytest.approx(WHAT.meetings.closing_m_s[1][shown].mean())
    assert met.size_m.mean == pytest.approx(WHAT.falls.diameter_m[1][shown].mean())


def test_heights_and_sizes_follow_the_laws_of_the_first_rig():
    crater = one(EventKind.CRATER_DEEPEST)
    assert crater.height_m.mean == pytest.approx(-WHAT.splashes.crater_m[0].mean())
    assert crater.size_m.mean == pytest.approx(2 * WHAT.splashes.crater_m[0].mean())
    sheet = one(EventKind.SHEET_FULL, 2)
    assert sheet.size_m.mean == pytest.approx(2 * np.nanmean(WHAT.meetings.widest_m[1]))
    meets = WHAT.meetings
    sunk, _ = sheet_sinking_m(meets.sheet_life_s[1] * WHAT.rigs.sheet_peak_share, meets.sheet_m_s[1], meets.brake_m[1])
    fallen = meets.height_m[1] + sunk
    assert sheet.height_m.mean == pytest.approx(np.nanmean(fallen))
    assert one(EventKind.TOUCHDOWN).height_m.mean == 0 and one(EventKind.SHEET_GONE, 2).height_m is None


def test_a_jet_that_is_met_has_no_top_of_its_own():
    alone = forecast(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(START.drops[:1], 356_000))
    top = one(EventKind.JET_TOP, what=alone)
    rise = (alone.splashes.jet_m_s[0] / alone.splashes.jet_slows_m_s2[0]).mean()
    assert top.time_s.mean == pytest.approx(
        (alone.splashes.jet_s[0] + alone.splashes.jet_m_s[0] / alone.splashes.jet_slows_m_s2[0]).mean()
    )
    assert one(EventKind.JET_GONE, what=alone).time_s.mean - top.time_s.mean == pytest.approx(rise)
    assert not [e for e in events(WHAT) if e.kind == EventKind.JET_TOP and e.probability > LEAST_SHARE + 0.05]


@settings(max_examples=30, deadline=None)
@given(
    jitter_s=st.floats(0.0, 0.1),
    gaps_us=st.lists(st.integers(1_000, 60_000), min_size=1, max_size=3),
    open_us=st.integers(12_000, 40_000),
)
@example(0.1, [73_000], 22_000)
def test_all_that_is_told_is_a_number(jitter_s, gaps_us, open_us):
    """Of before: drops that run into each other in the air left a size that is none, which JSON refuses."""
    setup = replace(TIDAL_MILL, triggers=replace(TIDAL_MILL.triggers, valve_jitter_s=jitter_s))
    starts = np.cumsum([0, *(open_us + gap for gap in gaps_us)])
    sequence = Sequence.with_one_flash(tuple(Pulse(int(start), open_us) for start in starts), 356_000)
    for event in events(forecast(setup, TAUGHT, sequence)):
        spreads = (event.time_s, event.height_m, event.speed_m_s, event.size_m)
        assert all(np.isfinite([s.mean, s.sd]).all() for s in spreads if s is not None), event


def test_a_drop_that_is_run_into_has_the_size_with_which_it_left():
    setup = replace(TIDAL_MILL, triggers=replace(TIDAL_MILL.triggers, valve_jitter_s=0.1))
    what = forecast(setup, TAUGHT, START)
    joined = np.isfinite(what.falls.joined_s[1])
    assert joined.any() and np.isnan(what.falls.diameter_m[1][joined]).all()
    assert one(EventKind.RELEASE, 2, what).size_m.mean == pytest.approx(what.falls.released_m[1].mean())
