from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.light.anchor import RatedFrame, Rating, settings_of
from ondine.core.light.exposure import light_on_subject, unit_on_subject
from ondine.core.light.session import DarkFrame, LightSession
from ondine.core.setup.fields import put
from ondine.demo.scenario import TIDAL_MILL


@given(st.floats(-3, 3), st.sampled_from([100, 200, 400]), st.floats(5.6, 32))
def test_the_right_iso_is_the_anchors_whatever_changes_since(off, iso, f_number):
    session = LightSession().with_frame("subject", RatedFrame(settings_of(TIDAL_MILL), Rating(off, off)))
    right = session.right_iso(TIDAL_MILL)
    assert right == pytest.approx(200 * 2**-off)
    changed = put(put(TIDAL_MILL, "camera.iso", iso), "camera.f_number", f_number)
    assert session.right_iso(changed) == pytest.approx(right * (f_number / 16) ** 2)
    brighter = put(put(TIDAL_MILL, "light.units.0.power", 1 / 32), "light.units.1.power", 1 / 32)
    assert session.right_iso(brighter) == pytest.approx(right / 2)
    # One unit of two has its own share only.
    share = unit_on_subject(TIDAL_MILL.light.key) / light_on_subject(TIDAL_MILL.light)
    key_alone = put(TIDAL_MILL, "light.units.0.power", 1 / 32)
    assert session.right_iso(key_alone) == pytest.approx(right / (1 + share))
    # Each unit at two flashes: a stop more. The other alone at one: what it gives.
    assert session.right_iso(TIDAL_MILL, (2, 2)) == pytest.approx(right / 2)
    assert session.right_iso(TIDAL_MILL, (0, 1)) == pytest.approx(right / (1 - share))
    clouded = replace(session, clouding_stops=2.0)
    assert clouded.right_iso(TIDAL_MILL) == pytest.approx(right / 4)
    assert LightSession.from_json(session.to_json()) == session


def test_a_frame_of_an_older_ondine_knows_the_key_unit_alone():
    frame = RatedFrame(replace(settings_of(TIDAL_MILL), others_stops=None), Rating(0.0, 0.0))
    session = LightSession().with_frame("subject", frame)
    assert session.right_iso(TIDAL_MILL, (2, 1)) == pytest.approx(200)
    kept = session.to_json().replace(', "others_stops": null', "")
    assert "others" not in kept and LightSession.from_json(kept) == session


def test_a_session_without_frames_goes_by_guide_numbers():
    session = LightSession()
    assert session.anchor is None and session.room_stops(TIDAL_MILL) is None
    doubled = put(put(TIDAL_MILL, "light.units.0.power", 1 / 32), "light.units.1.power", 1 / 32)
    assert session.right_iso(doubled) == pytest.approx(session.right_iso(TIDAL_MILL) / 2)


@given(st.floats(0.05, 2.0), st.floats(5.6, 32), st.sampled_from([100, 200, 800]))
def test_the_room_counts_shutter_aperture_and_iso(shutter, f_number, iso):
    session = replace(LightSession(), dark=DarkFrame(0.002, 0.5, 16.0, 200.0))
    base = session.room_stops(TIDAL_MILL, 0.5)
    camera = replace(TIDAL_MILL.camera, f_number=f_number, iso=iso, exposure_s=shutter)
    found = session.room_stops(replace(TIDAL_MILL, camera=camera))
    expected = base + np.log2(shutter / 0.5) + np.log2(iso / 200) + 2 * np.log2(16 / f_number)
    assert found == pytest.approx(expected)
