"""The simulated world behaves like water, and is nobody's copy."""

import ast
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

import ondine.bench.simulated
from ondine.bench.simulated.falls import NEAR_M, hang
from ondine.bench.simulated.fluid import fluid_of
from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.splashes import traps_bubble
from ondine.bench.simulated.staging import scene_at
from ondine.bench.simulated.witness import seen
from ondine.bench.simulated.world import Happening, happen
from ondine.core.forecast.events import EventKind, events
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup, Valve
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import MILL_RACE, RACE, START, TIDAL_MILL
from ondine.demo.scenario import SEED as DEMO_SEED
from tests.calibrated import TAUGHT

CALM = Luck(np.zeros(8), np.ones(8), np.zeros(8), np.zeros(8), 0.3, False)


def calm(sequence: Sequence, setup: Setup = TIDAL_MILL, seed: int = DEMO_SEED, head: float = 0.12) -> Happening:
    rigs = [HiddenRig.from_seed(seed).of_valve(seed, valve) for valve in range(len(setup.valves))]
    return happen(rigs, CALM, setup, sequence, [head] * len(rigs))


def test_a_rig_is_its_seed():
    assert HiddenRig.from_seed(4) == HiddenRig.from_seed(4) != HiddenRig.from_seed(5)


def test_it_imports_values_from_the_core_and_no_formula():
    folder = Path(ondine.bench.simulated.__file__).parent
    allowed = {
        "ondine.core.timing.sequence",
        "ondine.core.setup",
        "ondine.core.timing.commands",
        "ondine.core.timing.limits",
    }
    for path in folder.glob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("ondine.core"):
                assert node.module in allowed, f"{path.name} takes {node.module}"


@pytest.mark.parametrize("seed", range(12))
def test_any_rig_makes_splashes_of_practice(seed):
    # Common practice, no published source: craters to 13 mm, collisions 60-115 ms after touchdown, sheets of some ms.
    what = calm(START, replace(TIDAL_MILL, valves=(Valve(),)), seed)
    assert 0.008 < what.splashes[0].cavity.widest < 0.013
    umbrella = what.umbrellas[0]
    assert 0.060 < umbrella.met - what.drops[0].landed < 0.115
    assert 0.007 < umbrella.gone - umbrella.met < 0.022
    # Across 18 to 32 mm: wider than the 4.4 to 4.9 diameters to which drops spread on a plate (from memory).
    assert 0.009 < umbrella.peak < 0.016


def test_energy_only_falls_in_the_cavity():
    cavity = calm(START).splashes[0].cavity
    times = np.linspace(cavity.opened, cavity.closed, 50)
    radius, speed = np.array([cavity.track(t) for t in times]).T
    # Kinetic plus potential energy of a hemispherical cavity in an ideal liquid, with surface energy, per density.
    energy = radius**3 * speed**2 + 9.81 * radius**4 / 2 + 2 * 0.0715 / 1035 * radius**2
    assert np.all(np.diff(energy) < 1e-3 * energy[0])


def test_the_reservoir_sinks_and_the_drops_shrink():
    assert calm(START, head=0.06).drops[0].diameter < calm(START, head=0.12).drops[0].diameter


def test_drops_too_close_merge():
    assert calm(Sequence.with_one_flash((Pulse(0, 22_000), Pulse(30_000, 22_000)), 300_000)).merged
    assert not calm(START).merged


def test_shots_differ_and_repeat_by_number():
    rig = HiddenRig.from_seed(1)
    first, again, other = (Luck.of_shot(rig, 1, n, 2) for n in (7, 7, 8))
    assert np.array_equal(first.timing_s, again.timing_s)
    assert not np.array_equal(first.timing_s, other.timing_s)


def test_the_calibrated_forecast_meets_this_world_within_its_spread():
    what = calm(START, head=0.118)
    found = {(e.kind, e.drop): e for e in events(forecast(TIDAL_MILL, TAUGHT, START))}
    truth = {
        (EventKind.TOUCHDOWN, 1): what.drops[0].landed,
        (EventKind.JET_RISES, 1): what.splashes[0].jet.risen,
        (EventKind.MEETING, 2): what.umbrellas[0].met,
    }
    for key, seconds in truth.items():
        spread = found[key].time_s
        assert abs(spread.mean - seconds) < 2 * spread.sd, key


def test_the_scene_of_every_instant_can_be_staged():
    three = Sequence.with_one_flash((*START.drops, Pulse(135_000, 18_000)), 0)
    what = happen([HiddenRig.from_seed(3)], replace(CALM, bubbles=True), TIDAL_MILL, three, [0.12])
    for time in np.linspace(0, 0.7, 351):
        scene = scene_at(what, float(time))
        sizes = [v for b in scene.blobs for v in (b.across, b.upright)] + [s.radius for s in scene.sheets]
        assert all(np.isfinite(sizes)) and all(v > 0 for v in sizes)


def test_the_witness_sees_the_shapes_in_order():
    what = calm(START)
    order = []
    for time in np.arange(0.2, 0.5, 0.0005):
        shape = seen(what, float(time), TIDAL_MILL.camera.frame_top_m)
        if not order or order[-1] != shape:
            order.append(shape)
    wanted = [
        "nothing-in-frame", "in-flight", "touchdown", "crown", "crater", "rising-jet", "near-miss-above", "contact",
        "opening-umbrella", "full-umbrella", "torn-umbrella", "collapsed", "ripples",
    ]  # fmt: skip
    assert order == wanted


def train(*starts_ms: float, open_ms: float = 22, valve: int = 0) -> tuple[Pulse, ...]:
    return tuple(Pulse(round(ms * 1000), round(open_ms * 1000), valve) for ms in starts_ms)


def shot(*pulses: Pulse, setup: Setup = TIDAL_MILL) -> Happening:
    return calm(Sequence.with_one_flash(pulses, 0), setup)


TWO_VALVES = replace(
    TIDAL_MILL, valves=(TIDAL_MILL.valves[0], replace(TIDAL_MILL.valves[0], name="Valve B", aside_m=0.06))
)


def test_every_drop_that_reaches_the_water_makes_its_own_splash():
    what = shot(*train(0, 500, 1000, 1500))
    assert [splash.drop.number for splash in what.splashes] == [0, 1, 2, 3]
    # Alike drops on calm water do alike, one after the other.
    for one, other in zip(what.splashes, what.splashes[1:], strict=False):
        assert other.cavity.widest == pytest.approx(one.cavity.widest, rel=1e-6)
        assert other.jet.risen - one.jet.risen == pytest.approx(0.5, abs=1e-6)


def test_a_drop_into_an_open_crater_takes_its_jet():
    what = shot(*train(0, 43))
    first, second = what.splashes
    assert second.in_crater and first.jet is None and second.jet is not None
    assert first.cavity.closed == second.cavity.opened > second.drop.landed
    assert not second.crowned and first.crowned


def test_the_column_outlives_its_sheet_and_a_drop_opens_another_on_it():
    # A second valve over the same spot: one valve cannot let two drops go so soon after each other.
    high = replace(TIDAL_MILL.valves[0], name="High", nozzle_height_m=0.6)
    setup = replace(TIDAL_MILL, valves=(TIDAL_MILL.valves[0], high))
    sheet = shot(*train(0, 95)).umbrellas[0]
    fall = shot(*train(0, open_ms=12, valve=1), setup=setup).drops[0].landed
    onto = {}
    for late in np.arange(sheet.met - fall + 0.012, sheet.gone + 0.12 - fall, 0.003):
        found = shot(*train(0, 95), *train(1e3 * late, open_ms=12, valve=1), setup=setup).umbrellas
        onto.setdefault(found[1].on if len(found) > 1 else "water", []).append(late)
    assert {"sheet", "column", "water"} <= set(onto)
    assert max(onto["sheet"]) < min(onto["column"]) and max(onto["column"]) < max(onto["water"])


def test_the_head_of_a_column_sinks_on_from_where_the_sheet_left_it():
    sheet = shot(*train(0, 95)).umbrellas[0]
    times = sheet.gone + np.array([-2e-3, 0.0, 5e-3, 20e-3])
    heads = sheet.heads(times)
    assert heads[2:] == pytest.approx(heads[1] - sheet.sinks * np.array([5e-3, 20e-3]))
    # Singly and together, the same; its speed is how fast the heights change.
    assert [sheet.column(t)[0] for t in times] == pytest.approx(heads)
    assert sheet.column(times[3])[1] == pytest.approx((heads[3] - heads[2]) / 15e-3)


def test_a_fast_drop_runs_into_a_slow_one_in_the_air_and_mass_and_momentum_stay():
    high = replace(TIDAL_MILL.valves[0], name="High", nozzle_height_m=1.2)
    setup = replace(TIDAL_MILL, valves=(TIDAL_MILL.valves[0], high))
    alone = [shot(*train(0), setup=setup).drops[0], shot(*train(0, valve=1), setup=setup).drops[0]]
    # Started so that it would come down a little before the lower one.
    start = 200 + 1e3 * (alone[0].landed - alone[1].landed) - 12
    what = shot(*train(200), *train(start, valve=1), setup=setup)
    assert what.merged and len(what.drops) == 1 and len(what.joined) == 2
    (whole,) = what.drops
    assert whole.diameter**3 == pytest.approx(sum(drop.diameter**3 for drop in alone), rel=1e-6)
    slow, fast = sorted(drop.impact_speed for drop in alone)
    assert slow < whole.impact_speed < fast


def test_valves_apart_make_splashes_apart():
    what = shot(*train(0), *train(3, valve=1), setup=TWO_VALVES)
    assert len(what.splashes) == 2 and not any(splash.in_crater for splash in what.splashes)
    assert abs(what.drops[0].across - what.drops[1].across) > NEAR_M
    # Another valve has hidden numbers of its own.
    assert what.drops[0].diameter != pytest.approx(what.drops[1].diameter, rel=1e-3)
    assert (
        shot(*train(0, 95), setup=TWO_VALVES).umbrellas
        and not shot(*train(0), *train(95, valve=1), setup=TWO_VALVES).umbrellas
    )


def test_a_lopsided_sheet_is_seen_as_off_axis():
    aside = replace(CALM, aside_m=np.array([0, 1.8e-3, 0, 0]))
    rig = HiddenRig.from_seed(DEMO_SEED)
    what = happen([rig], aside, TIDAL_MILL, START, [0.12])
    (sheet,) = what.umbrellas
    assert seen(what, (sheet.met + sheet.gone) / 2, 0.1) == "off-axis"


def test_any_train_over_any_valves_can_be_staged():
    three = replace(TWO_VALVES, valves=(*TWO_VALVES.valves, replace(TWO_VALVES.valves[1], aside_m=-0.03)))
    pulses = (*train(0, 44, 95, 140), *train(10, 130, valve=1), *train(20, 120, valve=2))
    what = shot(*pulses, setup=three)
    assert len(what.drops) == 8 and {drop.number for drop in what.drops} == set(range(8))
    for time in np.linspace(0.2, 0.6, 80):
        scene_at(what, float(time))
        assert seen(what, float(time), 0.1) in BY_KEY


def test_a_valves_own_liquid_stays_what_it_is_in_drop_column_and_sheet():
    milk = replace(MILL_RACE.mix, tint="#f0f0ff", milk_mass_fraction=0.3)
    own = replace(MILL_RACE, valves=(MILL_RACE.valves[0], replace(MILL_RACE.valves[1], liquid=milk)))
    what = shot(*RACE.drops, setup=own)
    seen = set()
    for time_ms in (250, 272, 340, 356, 370, 380):
        scene = scene_at(what, time_ms / 1e3)
        for kind, parts in (("spot", scene.spots), ("sheet", scene.sheets), ("blob", scene.blobs)):
            # Droplets fly from one side to the other.
            for part in (part for part in parts if kind != "blob" or abs(part.x) > 6):
                assert part.ink == (part.x > 0), (time_ms, part)
                seen.add((kind, part.ink))
    assert seen == {(kind, ink) for kind in ("spot", "sheet", "blob") for ink in (0, 1)}


PRACTICE = HiddenRig.of_practice(3, 2.6e-6)


def of_rig(rig: HiddenRig, *pulses: Pulse, luck: Luck = CALM, height_m: float = 0.365) -> Happening:
    setup = Setup(valves=(Valve(nozzle_height_m=height_m),))
    return happen([rig], luck, setup, Sequence(pulses, ()), [rig.head_m])


def test_a_wide_outlet_lets_drops_go_later_and_slower():
    fluid = fluid_of(Setup(), 0)
    narrow, wide = (hang(replace(PRACTICE, outlet_m=m), fluid, 2.6e-6, 17e-3) for m in (1.7e-3, 2.9e-3))
    # Energy: no faster than the stream and the fall from the outlet give together.
    stream = PRACTICE.push * 4 * 2.6e-6 / (np.pi * 1.7e-3**2)
    assert wide.speed_m_s < narrow.speed_m_s < stream + 9.81 * narrow.lasts_s
    assert wide.lasts_s > narrow.lasts_s and narrow.below_m > wide.below_m > 0


def test_valves_that_bounce_or_drip_let_more_drops_fall():
    pair = train(0, 95)
    usual = of_rig(PRACTICE, *pair)
    odd = of_rig(PRACTICE, *pair, luck=replace(CALM, doubles=frozenset({1}), drips=frozenset({0})))
    assert len(usual.drops) + len(usual.joined) == 2
    sizes = sorted(float(drop.diameter) for drop in (*odd.drops, *odd.joined))
    assert len(sizes) >= 4 and sizes[0] < 0.6 * sizes[-1]


def test_odds_of_odd_valves_are_kept():
    often = replace(PRACTICE, late_odds=0.5, double_odds=0.3, drip_odds=0.2)
    lucks = [Luck.of_shot(often, 1, shot, 2) for shot in range(400)]
    late = np.mean([luck.timing_s > 3.9e-3 for luck in lucks])
    assert late == pytest.approx(0.5, abs=0.08)
    assert np.mean([0 in luck.doubles for luck in lucks]) == pytest.approx(0.3, abs=0.08)
    assert np.mean([0 in luck.drips for luck in lucks]) == pytest.approx(0.2, abs=0.08)


def test_a_late_drop_meets_a_bead_which_stops_it_less():
    early, late = (of_rig(replace(PRACTICE, bead_s=s), *train(0, 100)).umbrellas[0] for s in (0.01, 0.5))
    assert early.on == "bead" and late.on == "jet" and early.met == late.met
    assert early.column(early.met)[1] < late.column(late.met)[1] < 0 and early.peak < late.peak


def test_a_drop_goes_through_a_film_that_is_old_and_lands():
    high = replace(TIDAL_MILL.valves[0], name="High", nozzle_height_m=0.6)
    setup = replace(TIDAL_MILL, valves=(TIDAL_MILL.valves[0], high))
    sheet = shot(*train(0, 95)).umbrellas[0]
    fall = shot(*train(0, open_ms=12, valve=1), setup=setup).drops[0].landed
    for late in np.arange(0.8, 1.5, 0.05) * (sheet.gone - sheet.met):
        what = shot(*train(0, 95), *train(1e3 * (sheet.met + late - fall), open_ms=12, valve=1), setup=setup)
        through = [drop for drop in what.drops if drop.passed is not None]
        if through:
            break
    (drop,) = through
    assert drop.passed < drop.landed and any(splash.drop is drop for splash in what.splashes)
    assert seen(what, (drop.passed + drop.landed) / 2, 0.1) == "pass-through"


def test_small_drops_from_low_nozzles_trap_bubbles_and_throw_thin_fast_jets():
    # Pumphrey & Elmore 1990 (from memory): drops of some 8 ms from 15 cm.
    steady = replace(PRACTICE, swing=0.0)
    fluid = fluid_of(Setup())
    small, usual = (of_rig(steady, *train(0, open_ms=ms), height_m=0.13).splashes[0] for ms in (8, 20))
    assert traps_bubble(small.drop, fluid) and not traps_bubble(usual.drop, fluid)
    pace = [splash.jet.track(splash.jet.risen)[1] / (9.81 * splash.cavity.widest) ** 0.5 for splash in (small, usual)]
    assert pace[0] > 1.3 * pace[1] and small.jet.radius < 0.8 * usual.jet.radius


def test_a_drop_that_swings_digs_now_deeper_now_less_by_its_height():
    swinging = replace(PRACTICE, swing=0.2)
    heights = np.arange(0.30, 0.37, 0.01)
    wide, calm = (
        np.array([of_rig(rig, *train(0), height_m=h).splashes[0].cavity.widest for h in heights])
        for rig in (swinging, replace(PRACTICE, swing=0.0))
    )
    assert np.all(np.diff(calm) > 0) and not np.all(np.diff(wide) > 0)


def test_a_drop_misses_a_jet_that_leans_far():
    leaning = replace(CALM, lean=(0.6,) * 8)
    assert of_rig(PRACTICE, *train(0, 95)).umbrellas and not of_rig(PRACTICE, *train(0, 95), luck=leaning).umbrellas
