"""The ray-traced pictures, and the devices that deliver them."""

import math
import time
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest

from ondine.bench.protocol import BenchError
from ondine.bench.simulated.devices import SimulatedCamera, SimulatedController, SimulatedTable, simulated_bench
from ondine.bench.simulated.fluid import fluid_of
from ondine.bench.simulated.frame import Frame, photograph
from ondine.bench.simulated.unit import light_instants_s
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.whole import forecast
from ondine.core.light.freeze import freeze_table
from ondine.core.setup import Camera, FlashFiredBy, Setup, Triggers
from ondine.core.setup.fields import put
from ondine.core.table.lag_series import lag_between
from ondine.core.table.weighing import Weighing, flow_from
from ondine.core.timing.latency import commands_for
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import SEED, START, TAUGHT, TIDAL_MILL
from ondine.logbook.intake import read_picture
from ondine.picture.exposure import expose, trace
from ondine.picture.lamps import lamps_of
from ondine.picture.look import Look
from ondine.picture.scene import Blob, Scene
from ondine.picture.tracer import fresnel
from ondine.studio.pouring import pour_of

NOW = datetime(2026, 5, 9, 19, 0, tzinfo=UTC)
ONE = Sequence((Pulse(0, 22_000),), 258_000)
HIGH = ONE.with_flash(230_000)
"""The drop is well over the frame, and will still be in the air a little later."""

SMALL = (300, 200)


def test_fresnel_at_the_ends():
    # Normal incidence on water: ((n-1)/(n+1))² = 2.0 %; grazing: all. Hecht, Optics, ch. 4.6.
    assert fresnel(1.0, 1.0, 1.333) == pytest.approx(((1.333 - 1) / (1.333 + 1)) ** 2, rel=1e-6)
    assert fresnel(1e-6, 1.0, 1.333) == pytest.approx(1.0, abs=1e-4)
    # Brewster's angle: only one polarisation is left, half of its reflectance.
    angle = np.arctan(1.333)
    alone = ((np.cos(angle) - 1.333 * np.cos(np.arcsin(np.sin(angle) / 1.333))) / (
        np.cos(angle) + 1.333 * np.cos(np.arcsin(np.sin(angle) / 1.333)))) ** 2  # fmt: skip
    assert fresnel(float(np.cos(angle)), 1.0, 1.333) == pytest.approx(alone / 2, rel=1e-6)
    # Past the critical angle all is reflected.
    assert fresnel(0.5, 1.333, 1.0) == 1.0


def test_a_drop_turns_the_background_upside_down():
    camera = Camera(magnification=0.4)
    bright_above = Look(
        low=(0.0, 0.0, 0.0), high=(1.0, 1.0, 1.0), glow=(0.5, 0.5, 0.5), dye=(0.0, 0.0, 0.0), side_light=0
    )
    drop = Scene(blobs=[Blob(0, 0, 20, 4, 4, 1.0)])
    image = trace([drop], bright_above, camera, 1, SMALL).mean(axis=2)
    pitch = camera.frame_width_m * 1e3 / SMALL[0]
    # Film rows of z = 20 mm, plus and minus half a radius; the camera looks slightly down.
    centre = round(SMALL[1] * (1 - camera.water_line_share) - 20 / pitch)
    upper = image[centre - round(2 / pitch), 146:154].mean()
    lower = image[centre + round(2 / pitch), 146:154].mean()
    beside_upper, beside_lower = image[centre - round(2 / pitch), 20], image[centre + round(2 / pitch), 20]
    assert lower > 1.2 * upper
    assert beside_upper >= beside_lower


def test_motion_smears_a_falling_drop():
    camera = Camera(magnification=0.4)

    def sharpness(travel_mm: float) -> float:
        steps = [Scene(blobs=[Blob(0, 0, 20 - travel_mm * i / 4, 3, 3)]) for i in range(5)]
        image = trace(steps, Look(), camera, 1, SMALL).mean(axis=2)
        return float(np.abs(np.diff(image[:, 140:160], axis=0)).max(axis=0).mean())

    assert sharpness(0.0) > 1.15 * sharpness(3.0)


def test_more_light_and_less_light():
    camera, flat = Camera(magnification=0.4), np.full((4, 4, 3), 0.05, dtype=np.float32)
    levels = [expose(flat, replace(camera, iso=iso), 0.0, 1).mean() for iso in (50, 100, 200)]
    assert levels == sorted(levels) and levels[2] < 250
    assert expose(flat, replace(camera, f_number=22.0), 0.0, 1).mean() < levels[2]
    # A room that is lit leaves its own grey, however dark the flash.
    dark = np.zeros((4, 4, 3), dtype=np.float32)
    assert expose(dark, camera, 200.0, 1).mean() > 20 > expose(dark, camera, 0.2, 1).mean()


def test_lamps_follow_power_distance_place_and_gel():
    season = lamps_of(TIDAL_MILL)
    assert (season.behind, season.side) == (pytest.approx(1, abs=2e-3), pytest.approx(1, abs=2e-3))
    twice = lamps_of(put(TIDAL_MILL, "light.units.0.power", 1 / 32))
    assert twice.behind == pytest.approx(2 * season.behind) and twice.side == season.side
    far = lamps_of(put(TIDAL_MILL, "light.units.1.aside_m", 0.70))
    assert far.side < 0.4
    warm = lamps_of(put(TIDAL_MILL, "light.units.0.gel_mired", 131.0))
    assert warm.gains[0] > 1 > warm.gains[2]


def moved_away(setup: Setup, stops: float) -> Setup:
    """The same light on the splash from a greater power, through more diffuser."""
    for index, unit in enumerate(setup.light.units):
        setup = put(setup, f"light.units.{index}.power", unit.power * 2**stops)
        setup = put(setup, f"light.units.{index}.losses_stops", unit.losses_stops + stops)
    return setup


@pytest.mark.parametrize("stops", [3, 4])
def test_the_blur_that_was_foreseen_is_the_blur_in_the_picture(stops):
    """A drop on its way down, smeared by a brighter flash, against the same drop frozen."""
    setup = moved_away(TIDAL_MILL, stops)
    what = forecast(setup, TAUGHT, ONE)
    (edge,) = [e for e in outline(what, at_instant(what, ONE.flash_us)).edges if e.name == "drop 1"]
    key = setup.light.key
    (row,) = freeze_table([edge], key, [key.power], setup.camera, 200)

    def tall(how: Setup) -> float:
        """Extent of the drop on the picture's axis, in pixels: where it differs from the picture without it."""
        frame = Frame(SEED, Look(), ONE, how, 5, 0.12, lit=True, taken_at=NOW)
        with_drop = photograph(frame).astype(float)
        empty = photograph(replace(frame, sequence=ONE.with_flash(150_000))).astype(float)
        # Above the water, so that its mirror image does not count; many columns, so that noise does not.
        profile = np.abs(with_drop - empty)[:600, 585:616].mean(axis=(1, 2))
        seen = np.flatnonzero(profile > 3)
        return float(seen.max() - seen.min())

    frozen = put(put(TIDAL_MILL, "light.units.0.least_power", 1 / 1024), "light.units.0.power", 1 / 256)
    frozen = put(frozen, "light.units.0.losses_stops", 0.0)
    own = 1.02 * 19e-6 * edge.speed_m_s / setup.camera.pixel_on_subject_m
    measured = (tall(setup) - tall(frozen)) * setup.camera.width_px / 1200 + own
    assert measured == pytest.approx(row.worst_px, rel=0.15)


def test_light_comes_early_and_is_longer_with_power():
    assert light_instants_s(1.0)[-1] > 10 * light_instants_s(1 / 128)[-1]
    assert np.all(np.diff(light_instants_s(1 / 64)) > 0)


def test_a_dark_flash_gives_a_dark_frame_and_a_lit_one_a_picture():
    frame = Frame(SEED, Look(), START, TIDAL_MILL, 1, 0.12, lit=False, taken_at=NOW)
    dark, lit = photograph(frame), photograph(replace(frame, lit=True))
    assert dark.shape == lit.shape == (800, 1200, 3)
    assert dark.mean() < 8 < 60 < lit.mean() < 220
    # The umbrella stands in the middle: there is more to see there than at the edge.
    assert lit[300:600, 450:750].std() > 1.3 * lit[300:600, :300].std()


def test_the_same_frame_is_the_same_picture():
    frame = Frame(SEED, Look(), START, TIDAL_MILL, 3, 0.12, lit=False, taken_at=NOW)
    assert np.array_equal(photograph(frame), photograph(frame))


def wait_for_file(folder: Path, within_s: float = 60) -> Path:
    end = time.monotonic() + within_s
    while time.monotonic() < end:
        found = list(folder.glob("*.JPG"))
        if found:
            return found[0]
        time.sleep(0.05)
    raise AssertionError("no picture came")


def test_the_bench_drops_a_jpeg_into_the_folder_after_firing(tmp_path):
    slept: list[float] = []
    controller, camera = simulated_bench(SEED, lambda: NOW, slept.append)
    camera.deliver_to(tmp_path, lambda error: pytest.fail(str(error)))
    report = controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL)
    assert report.flash_us == START.flash_us and slept[0] > START.flash_us / 1e6
    facts = read_picture(wait_for_file(tmp_path))
    camera.close()
    assert (facts.width_px, facts.height_px, facts.taken_at) == (1200, 800, NOW)
    assert facts.f_number == 16 and facts.iso == 200 and facts.exposure_s == 0.5
    assert not list(tmp_path.glob(".*"))


def test_a_picture_that_cannot_be_written_is_reported(tmp_path):
    controller, camera = simulated_bench(SEED, lambda: NOW, lambda _: None)
    errors: list[BenchError] = []
    camera.deliver_to(tmp_path / "none", errors.append)
    controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL)
    end = time.monotonic() + 60
    while not errors and time.monotonic() < end:
        time.sleep(0.05)
    camera.close()
    assert "could not be written" in str(errors[0])


class DeafCamera(SimulatedCamera):
    """Notes whether light fell."""

    def __init__(self, table: SimulatedTable) -> None:
        super().__init__(table)
        self.lit: list[bool] = []
        self.light_us: list[int] = []

    def expose(self, *words: object) -> None:
        assert isinstance(words[0], Sequence)
        self.lit.append(bool(words[4]))
        self.light_us.append(words[0].flash_us)


def test_the_level_drifts_and_an_empty_reservoir_refuses():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    controller = SimulatedController(table, DeafCamera(table))
    full = table.head_m
    controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL)
    assert table.head_m < full
    table.head_m = 0
    with pytest.raises(BenchError, match="Refill"):
        controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL)
    table.refill()
    assert table.head_m == full


def test_a_flash_that_has_not_recycled_stays_dark():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    camera = DeafCamera(table)
    controller = SimulatedController(table, camera)
    assert controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL).note == ""
    assert "not ready" in controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL).note
    assert camera.lit == [True, False]


def test_weighing_the_simulated_valve_finds_what_it_hides():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    controller = SimulatedController(table, DeafCamera(table))
    density = fluid_of(TIDAL_MILL).density
    weighings = []
    for open_us, pulses in ((12_000, 80), (25_000, 60), (45_000, 40)):
        table.refill()
        poured = controller.pour(pour_of(TIDAL_MILL.rig, open_us, pulses), TIDAL_MILL, lambda _: True)
        assert poured.pulses == pulses and poured.grams is not None
        weighings.append(Weighing(open_us, pulses, poured.grams, 0.02))
    found = flow_from(weighings, density)
    # The head sinks a little while it is weighed.
    hidden = table.rig.discharge_m3_s_sqrt_m * math.sqrt(table.rig.head_m)
    assert found.flow_m3_s == pytest.approx(hidden, rel=0.02)
    assert found.dead_time_s == pytest.approx(table.rig.dead_time_s, abs=0.4e-3)
    stopped = controller.pour(pour_of(TIDAL_MILL.rig, 20_000, 50), TIDAL_MILL, lambda done: done < 7)
    assert stopped.pulses == 7


def test_the_cameras_school_has_a_lag_that_two_series_find():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    camera = DeafCamera(table)
    controller = SimulatedController(table, camera)
    through = {}
    for school in FlashFiredBy:
        setup = replace(TIDAL_MILL, triggers=Triggers(flash_fired_by=school))
        camera.light_us.clear()
        table.flashed_at = None
        for _ in range(8):
            table.flashed_at = None
            controller.fire(commands_for(setup, HIGH), setup)
        through[school] = np.array(camera.light_us) / 1e6
    late = through[FlashFiredBy.CAMERA].mean() - through[FlashFiredBy.CONTROLLER].mean()
    known = Triggers().shutter_lag_s + Triggers().wire_lag_s
    assert late == pytest.approx(table.rig.camera_lag_s - known, abs=1.5e-3)
    # What the pictures would show, measured: each drop as high as it was when the light came.
    fallen = {s: [height_at(TIDAL_MILL, t) for t in times] for s, times in through.items()}
    found = lag_between(
        fallen[FlashFiredBy.CONTROLLER], fallen[FlashFiredBy.CAMERA], TIDAL_MILL, TAUGHT, HIGH.drops[0].open_us
    )
    assert found.lag_s == pytest.approx(late, abs=1e-4)


def height_at(setup: Setup, time_s: float) -> float:
    what = forecast(setup, TAUGHT, HIGH)
    return float(at_instant(what, round(time_s * 1e6)).drop_height_m[0, 0])


def test_a_shutter_that_is_shut_is_told_and_a_dark_frame_is_dark():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    camera = DeafCamera(table)
    controller = SimulatedController(table, camera)
    short = put(put(TIDAL_MILL, "camera.exposure_s", 0.05), "triggers.shutter_lead_s", 0.25)
    assert "shutter was shut" in controller.fire(commands_for(short, START), short).note
    table.flashed_at = None
    dark = replace(commands_for(TIDAL_MILL, START), dark=True)
    assert controller.fire(dark, TIDAL_MILL).note == "flash off" and camera.lit == [False, False]
