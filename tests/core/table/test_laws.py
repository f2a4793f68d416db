"""Laws that hold for every table: what moves with what, and which way."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from ondine.core.forecast.framing import crop, framing_note
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.whole import forecast, same_drops
from ondine.core.light.anchor import RatedFrame, Rating, settings_of
from ondine.core.light.freeze import waiting
from ondine.core.light.lens import distance_at_m, subject_to_sensor_m
from ondine.core.light.session import DarkFrame, LightSession
from ondine.core.setup import Camera, FlashFiredBy, Release, Setup, Triggers
from ondine.core.setup.compare import differences
from ondine.core.setup.fields import leaves, put, read
from ondine.core.setup.wire import setup_from_json
from ondine.core.table.edit import EditError, check, edited
from ondine.core.table.results import table_results
from ondine.core.table.viewpoint import viewpoint
from ondine.core.timing.commands import Commands
from ondine.core.timing.latency import commands_for, hit_share, latency
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.core.units import Units
from ondine.demo.scenario import START, TAUGHT, TIDAL_MILL

ONE = Sequence((Pulse(0, 22_000),), 300_000)

EDITS = st.sampled_from(
    [
        ("rig.nozzle_height_m", 0.1, 1.0), ("rig.head_m", 0.02, 0.5), ("bowl.diameter_m", 0.1, 0.5),
        ("bowl.depth_m", 0.005, 0.1), ("bowl.landing_m", -0.2, 0.2), ("camera.front_glass_m", 0.02, 1.0),
        ("camera.magnification", 0.05, 1.5), ("camera.focal_length_m", 0.03, 0.2), ("camera.height_m", 0.0, 0.5),
        ("camera.f_number", 2.8, 45.0), ("light.units.0.x_m", -1.0, 1.0), ("light.units.0.power", 1 / 300, 1.0),
        ("mix.glycerine_mass_fraction", 0.0, 1.2), ("mix.milk_mass_fraction", 0.0, 1.0), ("mix.temperature_c", -5.0, 50.0),
    ]
)  # fmt: skip


@given(st.lists(st.tuples(EDITS, st.floats(0, 1)), max_size=12))
@settings(max_examples=60)
def test_no_run_of_edits_leads_to_a_table_that_cannot_stand(run):
    setup = TIDAL_MILL
    for (path, low, high), share in run:
        try:
            setup = edited(setup, path, low + share * (high - low))
        except EditError as error:
            assert str(error)[0].isupper() and str(error).rstrip().endswith((".", "%"))
        check(setup, Units())
    # Whatever was done, camera and lens stay one thing.
    camera = setup.camera
    assert camera.front_glass_m < subject_to_sensor_m(camera.focal_length_m, camera.magnification)
    assert setup_from_json(setup.to_json()) == setup
    assert table_results(forecast(setup, TAUGHT, ONE)).energy_j >= 0


@given(EDITS, st.floats(0, 1))
def test_an_edit_changes_its_field_and_little_else(edit, share):
    path, low, high = edit
    value = low + share * (high - low)
    try:
        made = edited(TIDAL_MILL, path, value)
    except EditError:
        return
    assert read(made, path) == pytest.approx(value)
    changed = {d.path for d in differences(TIDAL_MILL, made)}
    linked = {"camera.front_glass_m", "camera.magnification", "camera.focal_length_m"}
    assert changed <= ({path} | linked if path in linked else {path})
    back = put(made, path, read(TIDAL_MILL, path))
    assert path in linked or back == TIDAL_MILL


@given(st.floats(0.15, 0.9), st.floats(0.01, 0.2))
def test_higher_falls_longer_and_hits_harder(height, more):
    def results(nozzle):
        return table_results(forecast(put(TIDAL_MILL, "rig.nozzle_height_m", nozzle), TAUGHT, ONE))

    low, high = results(height), results(height + more)
    assert high.fall_s.mean > low.fall_s.mean
    assert high.impact_m_s.mean > low.impact_m_s.mean and high.energy_j > low.energy_j
    assert high.spray_reach_m > low.spray_reach_m
    assert high.diameter_m.mean == pytest.approx(low.diameter_m.mean)
    # g·h is the most that a fall can give (energy bound).
    fallen = 9.80665 * (height + more) + TAUGHT.start_speed_m_s.mean**2 / 2
    assert high.impact_m_s.mean**2 / 2 <= fallen * 1.02


def test_camera_light_and_bowl_are_felt_by_no_drop():
    for path, value in (
        ("camera.magnification", 0.3),
        ("light.units.0.power", 0.1),
        ("bowl.depth_m", 0.06),
        ("name", "x"),
    ):
        assert same_drops(TIDAL_MILL, put(TIDAL_MILL, path, value))
        one, other = forecast(TIDAL_MILL, TAUGHT, START), forecast(put(TIDAL_MILL, path, value), TAUGHT, START)
        assert np.array_equal(one.falls.touchdown_s, other.falls.touchdown_s, equal_nan=True)
    for path, value in (("rig.nozzle_height_m", 0.3), ("mix.temperature_c", 30.0)):
        assert not same_drops(TIDAL_MILL, put(TIDAL_MILL, path, value))


# Triggers


@given(
    st.sampled_from(list(FlashFiredBy)), st.sampled_from([Release.WIRE, Release.INFRARED]), st.booleans(), st.booleans(),
    st.integers(100_000, 800_000),
)  # fmt: skip
def test_light_comes_when_it_is_wanted_whatever_the_path(school, release, mirror_up, radio, flash_us):
    triggers = Triggers(flash_fired_by=school, release=release, mirror_up=mirror_up, radio=radio)
    setup = replace(TIDAL_MILL, triggers=triggers, camera=replace(TIDAL_MILL.camera, exposure_s=0.6))
    found = latency(setup, ONE.with_flash(flash_us))
    assume(found.light.lag_s < flash_us / 1e6)
    assert found.light_s == pytest.approx(flash_us / 1e6)
    commands = commands_for(setup, ONE.with_flash(flash_us))
    assert isinstance(commands, Commands) and commands.shutter_us >= 0
    sent = commands.shutter_us if school is FlashFiredBy.CAMERA else commands.flash_us
    assert sent + found.light.lag_s * 1e6 == pytest.approx(flash_us, abs=1)
    if not found.problem:
        assert found.open_from_s <= found.light_s <= found.open_until_s


@given(st.floats(0.0005, 0.01), st.floats(0.0001, 0.01), st.floats(1.1, 5))
def test_more_jitter_hits_fewer_sheets_and_a_longer_window_more(window, jitter, factor):
    assert hit_share(window, jitter) >= hit_share(window, jitter * factor)
    assert hit_share(window * factor, jitter) >= hit_share(window, jitter)


# RatedFrame


def test_each_remedy_of_the_frame_helps():
    """The sentence names a remedy; doing it makes the jet fit, or brings it nearer."""
    tight = replace(TIDAL_MILL, camera=replace(TIDAL_MILL.camera, magnification=0.44, water_line_share=0.30))
    what = forecast(tight, TAUGHT, ONE)
    said = framing_note(what, outline(what, at_instant(what, 300_000)))
    assert "aim the camera higher" in said
    aimed = put(tight, "camera.water_line_share", 0.10)
    what = forecast(aimed, TAUGHT, ONE)
    assert framing_note(what, outline(what, at_instant(what, 300_000))) == ""
    tall = put(put(TIDAL_MILL, "camera.magnification", 0.50), "camera.water_line_share", 0.09)
    what = forecast(tall, TAUGHT, ONE)
    note = framing_note(what, outline(what, at_instant(what, 300_000)))
    if "portrait" in note:
        what = forecast(put(tall, "camera.portrait", True), TAUGHT, ONE)
        assert framing_note(what, outline(what, at_instant(what, 300_000))) == ""


@given(st.floats(1.0, 4.0), st.floats(0.1, 1.0))
def test_cropping_trades_pixels_for_depth_everywhere(wider, m):
    camera = Camera(magnification=m)
    filled, cropped = crop(camera, 1.0), crop(camera, wider)
    assert cropped.depth_m >= filled.depth_m * 0.999
    assert cropped.across_px <= filled.across_px and cropped.print_ppi <= filled.print_ppi + 1e-9
    assert cropped.room_m >= -1e-12


@given(st.floats(0.0, 0.4), st.floats(-0.1, 0.1))
def test_rims_are_seen_where_similar_triangles_put_them(height, landing):
    setup = replace(
        TIDAL_MILL,
        camera=replace(TIDAL_MILL.camera, height_m=height),
        bowl=replace(TIDAL_MILL.bowl, landing_m=landing),
    )
    seen = viewpoint(setup)
    away = distance_at_m(setup.camera.focal_length_m, setup.camera.magnification)
    near, far = 0.13 - landing, 0.13 + landing
    # A ray from the lens through the rim, at the plane of the splash.
    assert seen.far_rim_m == pytest.approx(height * far / (away + far))
    if near < away:
        assert seen.near_rim_m == pytest.approx(-height * near / (away - near))
    assert seen.jet_share**2 + seen.ring_share**2 == pytest.approx(1)


# Light


def test_waiting_for_the_sheet_of_the_demo_is_found_by_itself():
    what = forecast(TIDAL_MILL, TAUGHT, START)

    def edges(time_us):
        return outline(what, at_instant(what, time_us)).edges

    key = TIDAL_MILL.light.key
    found = [waiting(edges, t, key, TIDAL_MILL.camera) for t in range(351_500, 356_000, 500)]
    assert any(w is not None and w.edge == "sheet rim" for w in found)
    for w in (w for w in found if w is not None):
        assert w.later_px < w.stop_px < w.now_px


@given(st.floats(-3, 3), st.sampled_from([100, 200, 400]), st.floats(5.6, 32))
def test_the_right_iso_is_the_anchors_whatever_changes_since(off, iso, f_number):
    session = LightSession().with_frame("subject", RatedFrame(settings_of(TIDAL_MILL), Rating(off, off)))
    right = session.right_iso(TIDAL_MILL)
    assert right == pytest.approx(200 * 2**-off)
    changed = put(put(TIDAL_MILL, "camera.iso", iso), "camera.f_number", f_number)
    assert session.right_iso(changed) == pytest.approx(right * (f_number / 16) ** 2)
    brighter = put(TIDAL_MILL, "light.units.0.power", 1 / 32)
    assert session.right_iso(brighter) == pytest.approx(right / 2)
    clouded = replace(session, clouding_stops=2.0)
    assert clouded.right_iso(TIDAL_MILL) == pytest.approx(right / 4)
    assert LightSession.from_json(session.to_json()) == session


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


# Set-ups


def _with(setup: Setup, path: str, share: float) -> Setup:
    from ondine.core.setup.fields import about

    known = about(setup, path)
    value = read(setup, path)
    if known.low is None or known.high is None or value is None or isinstance(value, bool):
        return setup
    made = known.low + share * (known.high - known.low)
    return put(setup, path, round(made) if isinstance(value, int) else made)


PATHS = [path for path, value in leaves(TIDAL_MILL) if isinstance(value, int | float) and not isinstance(value, bool)]


@given(st.lists(st.tuples(st.sampled_from(PATHS), st.floats(0, 1)), max_size=8))
def test_revisions_tell_set_ups_apart_and_survive_their_json(changes):
    setup = TIDAL_MILL
    for path, share in changes:
        setup = _with(setup, path, share)
    again = setup_from_json(setup.to_json())
    assert again == setup and again.revision == setup.revision
    assert (setup.revision == TIDAL_MILL.revision) == (setup == TIDAL_MILL)
    assert (differences(setup, TIDAL_MILL) == []) == (setup == TIDAL_MILL)
