"""The splash as outlines: volumes that are kept, and ghosts that are other rigs' outlines."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import LEAST_SHEET_M, _pool, ghosts, outline
from ondine.core.forecast.whole import forecast
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import ONE, PAIR, TIDAL_MILL
from tests.calibrated import TAUGHT

FOUR = (Pulse(0, 22_000), Pulse(95_000, 22_000), Pulse(133_000, 18_000), Pulse(190_000, 20_000))
CASES = {"one": ONE, "pair": PAIR, "four": FOUR}
FORECASTS = {name: forecast(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(drops, 0)) for name, drops in CASES.items()}


@pytest.mark.parametrize("name", CASES)
@given(flash_ms=st.integers(0, 560))
def test_ghosts_are_the_outlines_of_other_rigs(name, flash_ms):
    what = FORECASTS[name]
    now = at_instant(what, flash_ms * 1000)
    rigs = [3, 1, 200]
    seen = ghosts(what, now, rigs)
    alone = [outline(what, now, rig) for rig in rigs]
    for found, wanted in (
        (seen.columns, [column for one in alone for column in one.columns]),
        (seen.sheets, [sheet for one in alone for sheet in one.sheets]),
    ):
        assert len(found) == len(wanted)
        profiles = np.array(sorted(form.profile.tolist() for form in wanted))
        assert np.array(sorted(found.tolist())) == pytest.approx(profiles)
    drops = sorted((aside, height, radius) for one in alone for _, aside, height, radius in one.drops)
    assert np.array(sorted(seen.drops.tolist())) == pytest.approx(np.array(drops))


def test_a_sheet_holds_the_drop_that_made_it():
    what = FORECASTS["pair"]
    met, life = what.meetings.time_s[1, 0], what.meetings.sheet_life_s[1, 0]
    diameter = float(what.falls.diameter_m[1, 0])
    for age in (0.12, 0.16):
        now = at_instant(what, round((met + age * life) * 1e6))
        (form,) = outline(what, now).sheets
        sheet = form.profile
        half = len(sheet) // 2
        rim, thick = sheet[half - 1, 0], sheet[half - 1, 1] - sheet[half, 1]
        # Thicker than what is drawn at least: the disc πR²h is as much as the sphere πD³/6.
        assert LEAST_SHEET_M < thick < diameter / 2
        assert np.pi * rim**2 * thick == pytest.approx(np.pi * diameter**3 / 6, rel=1e-6)


def test_the_jet_stands_to_its_tip_and_is_gone_when_it_has_sunk():
    what = FORECASTS["one"]
    jet_s = float(what.splashes.jet_s[0, 0])
    now = at_instant(what, round((jet_s + 0.02) * 1e6))
    shape = outline(what, now)
    (jet,) = shape.columns
    assert jet.profile[:, 1].max() == pytest.approx(now.jet_tip_m[0, 0])
    assert [e.name for e in shape.edges] == ["jet tip"]
    assert shape.edges[0].speed_m_s == pytest.approx(abs(now.jet_speed_m_s[0, 0]))
    assert outline(what, at_instant(what, round((jet_s + 2.0) * 1e6))).columns == []


def test_the_column_under_a_sheet_ends_at_the_sheet():
    what = FORECASTS["pair"]
    met, life = what.meetings.time_s[1, 0], what.meetings.sheet_life_s[1, 0]
    now = at_instant(what, round((met + 0.3 * life) * 1e6))
    shape = outline(what, now)
    (column,) = shape.columns
    assert column.profile[:, 1].max() == pytest.approx(now.sheet_height_m[1, 0])
    assert [e.name for e in shape.edges] == ["sheet rim"]
    assert shape.edges[0].speed_m_s == pytest.approx(abs(now.sheet_edge_m_s[1, 0]))


@pytest.mark.parametrize("share", [0.1, 0.3, 0.6, 0.9])
def test_the_crowns_edge_moves_as_fast_as_it_is_drawn(share):
    what = FORECASTS["one"]
    touchdown = float(what.falls.touchdown_s[0, 0])
    at_us = round((touchdown + share * (float(what.splashes.crown_end_s[0, 0]) - touchdown)) * 1e6)
    # An independent path: heights before and after, over the time between.
    before, after = (outline(what, at_instant(what, at_us + d)).crowns[0].profile[-1, 1] for d in (-50, 50))
    (edge,) = [e for e in outline(what, at_instant(what, at_us)).edges if e.name == "crown"]
    assert edge.speed_m_s == pytest.approx(abs(after - before) / 100e-6, rel=0.02, abs=2e-3)


def test_a_crater_inside_a_wider_one_is_not_drawn_beside_it():
    """It ended the whole picture of three valves that stand near each other."""
    what = forecast(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(PAIR, 300_000))
    now = at_instant(what, 0.3)
    depths = np.zeros_like(now.crater_depth_m)
    depths[0], depths[1] = 0.010, 0.002
    wide = replace(now, crater_depth_m=depths)
    assert (np.diff(_pool(wide, np.array([0.0, 0.003]), 0)[:, 0]) >= 0).all()
    assert _pool(wide, np.array([0.0, 0.003]), 0)[:, 1].min() == pytest.approx(-0.010, rel=0.05)
