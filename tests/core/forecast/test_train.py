"""Every drop of a train: its own splash on calm water, or what it does to what stands there."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from ondine.core.belief.priors import Belief, Prior, Variation
from ondine.core.belief.rigs import sample_rigs
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.events import EventKind, events
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.phases import KEYS, phases
from ondine.core.forecast.shapes import NOT_FORESEEN, shape_probabilities
from ondine.core.forecast.train import CRATER_JET_SHARE, On
from ondine.core.forecast.whole import Forecast, forecast
from ondine.core.physics.flight import fall_time_s
from ondine.core.setup import Setup, Triggers, Valve
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import TIDAL_MILL
from tests.calibrated import TAUGHT
from tests.core.timing.sequences import sequences

CERTAIN = replace(
    Belief(**{name: Prior(prior.mean, 0.0) for name, prior in Belief().priors.items()}),
    variation=Variation(0.0, 0.0, 0.0, 0.0, 0.0),
)
FOUR_VALVES = replace(
    TIDAL_MILL,
    valves=tuple(
        replace(TIDAL_MILL.valves[0], name=f"Valve {n}", aside_m=aside, nozzle_height_m=height)
        for n, (aside, height) in enumerate([(0.0, 0.365), (0.0, 0.6), (0.06, 0.365), (-0.02, 0.30)])
    ),
)


def train(*starts_ms: float, open_ms: float = 20, valve: int = 0) -> tuple[Pulse, ...]:
    return tuple(Pulse(round(ms * 1000), round(open_ms * 1000), valve) for ms in starts_ms)


def foreseen(*pulses: Pulse, setup: Setup | None = None, belief: Belief = CERTAIN) -> Forecast:
    return forecast(setup or Setup(), belief, Sequence.with_one_flash(pulses, 0))


def test_touchdown_crater_and_meeting_of_the_kth_drop_agree_with_solve_ivp():
    # Pairs on water that has come to rest: the seventh and eighth drop do as the first and second.
    rigs = sample_rigs(Belief(), 24)
    pulses = tuple(Pulse(start + 800_000 * pair, 20_000) for pair in range(4) for start in (0, 95_000))
    what = forecast(Setup(), Belief(), Sequence.with_one_flash(pulses, 0), rigs)
    falls, made, meets = what.falls, what.splashes, what.meetings
    checked = 0
    for pair in range(4):
        first, second = 2 * pair, 2 * pair + 1
        for rig in range(rigs.count):
            landed, speed = fallen(what, first, rig)
            assert made.touchdown_s[first, rig] == pytest.approx(landed, abs=0.2e-3)
            # The energy of the crater, integrated: a share of ½mU² lifts a hemisphere's water, ∫ρg·πr²·z, and makes its
            # surface, one more disc of it than before.
            mass_over_density = np.pi / 6 * falls.diameter_m[first, rig] ** 3
            depth = made.crater_m[first, rig]
            shells = np.linspace(0, depth, 2001)
            lifted = np.trapezoid(np.pi * (depth**2 - shells**2) * G * shells, shells)
            kinetic = 0.5 * mass_over_density * speed**2 * rigs.energy_share[rig]
            tension = what.pool.surface_tension_n_m / what.pool.density_kg_m3
            assert lifted + np.pi * depth**2 * tension == pytest.approx(kinetic, rel=2e-3)
            if meets.on[second, rig] not in (On.JET, On.BEAD):
                continue
            met, height = jet_and_drop(what, first, second, rig)
            assert meets.time_s[second, rig] == pytest.approx(met, abs=0.8e-3)
            assert meets.height_m[second, rig] == pytest.approx(height, abs=1.5e-3)
            checked += 1
    assert checked > 40


def fallen(what: Forecast, drop: int, rig: int) -> tuple[float, float]:
    """When and how fast a drop lands, by integrating its law of fall."""
    falls = what.falls
    terminal, height = falls.terminal_m_s[drop, rig], falls.height_m[drop, rig]

    def law(_: float, s: np.ndarray) -> list[float]:
        return [s[1], G * (1 - (s[1] / terminal) ** 2)]

    def lands(_: float, s: np.ndarray) -> float:
        return float(s[0] - height)

    lands.terminal = True
    solved = solve_ivp(law, (0, 2), [0.0, falls.start_m_s[drop, rig]], events=lands, rtol=1e-8)
    return falls.release_s[drop, rig] + float(solved.t[-1]), float(solved.y[1, -1])


def jet_and_drop(what: Forecast, first: int, second: int, rig: int) -> tuple[float, float]:
    """When and how high the tip of a jet and a falling drop meet, by integrating both together."""
    falls, made = what.falls, what.splashes
    terminal, slows = falls.terminal_m_s[second, rig], made.jet_slows_m_s2[first, rig]
    jet_s = made.jet_s[first, rig]
    start = jet_s - falls.release_s[second, rig]

    def fall(_: float, s: np.ndarray) -> list[float]:
        return [s[1], G * (1 - (s[1] / terminal) ** 2)]

    before = solve_ivp(fall, (0, start), [0.0, falls.start_m_s[second, rig]], rtol=1e-8).y[:, -1]

    def law(_: float, s: np.ndarray) -> list[float]:
        return [s[1], G * (1 - (s[1] / terminal) ** 2), s[3], -slows]

    def touch(_: float, s: np.ndarray) -> float:
        return float(falls.height_m[second, rig] - s[0] - s[2])

    touch.terminal = True
    solved = solve_ivp(law, (0, 1), [*before, 0.0, made.jet_m_s[first, rig]], events=touch, rtol=1e-8)
    return jet_s + float(solved.t[-1]), float(solved.y[2, -1])


@settings(max_examples=40, deadline=None)
@given(sequences(), st.randoms(use_true_random=False))
def test_what_happens_does_not_depend_on_how_the_drops_are_numbered(sequence, random):
    order = list(range(len(sequence.drops)))
    random.shuffle(order)
    shuffled = replace(sequence, drops=tuple(sequence.drops[i] for i in order))
    one, other = (forecast(FOUR_VALVES, CERTAIN, s, sample_rigs(CERTAIN, 2)) for s in (sequence, shuffled))
    # Of drops that run together in the air the first in number goes on.
    assume(np.isnan(one.falls.joined_s).all())
    for name in ("touchdown_s", "crater_m", "jet_s", "ends_s"):
        assert getattr(one.splashes, name)[order, 0] == pytest.approx(getattr(other.splashes, name)[:, 0], nan_ok=True)
    assert one.meetings.time_s[order, 0] == pytest.approx(other.meetings.time_s[:, 0], nan_ok=True)
    assert np.array_equal(one.meetings.on[order, 0], other.meetings.on[:, 0])
    assert at_instant(one, 400_000).gone[order, 0].tolist() == at_instant(other, 400_000).gone[:, 0].tolist()


@settings(max_examples=40, deadline=None)
@given(sequences(), st.integers(0, 2_000_000))
def test_every_drop_does_one_thing_and_every_instant_has_one_shape(sequence, at_us):
    what = forecast(FOUR_VALVES, TAUGHT, sequence, sample_rigs(TAUGHT, 64))
    lands = np.isfinite(what.splashes.touchdown_s).astype(int)
    meets, merges = np.isfinite(what.meetings.stops_s).astype(int), what.falls.merged.astype(int)
    # Who goes through a sheet lands.
    assert (lands[what.meetings.passes] == 1).all()
    nothing_fell = np.isnan(what.falls.touchdown_s) & ~what.falls.merged
    assert np.array_equal(lands + meets + merges + nothing_fell, np.ones_like(lands))
    assert sum(shape_probabilities(what, at_us).values()) == pytest.approx(1)
    now = at_instant(what, at_us)
    for spot in what.spots:
        own = list(spot.drops)
        assert np.all(np.isfinite(now.since_touchdown_s[own]).sum(axis=0) <= 1)
        assert np.all(np.isfinite(now.sheet_age_s[own]).sum(axis=0) <= 1)


def test_drops_alike_on_calm_water_do_alike():
    what = foreseen(*train(0, 800, 1600, 2400))
    for name in ("crater_m", "jet_m_s", "jet_delay_s"):
        values = getattr(what.splashes, name)[:, 0]
        assert np.ptp(values) == pytest.approx(0, abs=1e-12)
    assert np.diff(what.splashes.jet_s[:, 0]) == pytest.approx(0.8)
    kinds = [e.kind for e in events(what)]
    assert kinds.count(EventKind.JET_TOP) == kinds.count(EventKind.TOUCHDOWN) == 4


def test_a_third_drop_meets_the_sheet_then_its_column_then_water():
    high = Valve(nozzle_height_m=0.6)
    setup = Setup(valves=(Valve(), high))
    pair = foreseen(*train(0, 95))
    met, life = pair.meetings.time_s[1, 0], pair.meetings.sheet_life_s[1, 0]
    fall = foreseen(*train(0, valve=1, open_ms=10), setup=setup).falls.touchdown_s[0, 0]
    found: dict[On, list[float]] = {}
    for late in np.arange(0.004, 0.16, 0.001):
        start = 1e3 * (met + late - fall)
        what = foreseen(*train(0, 95), *train(start, valve=1, open_ms=10), setup=setup)
        if not what.falls.merged[:, 0].any():
            found.setdefault(On(int(what.meetings.on[2, 0])), []).append(late)
            assert what.meetings.splash[2, 0] == (0 if what.meetings.on[2, 0] else -1)
    assert max(found[On.SHEET]) < min(found[On.THROUGH]) <= max(found[On.THROUGH]) < min(found[On.COLUMN])
    assert max(found[On.COLUMN]) < max(found[On.NOTHING])
    # The column stands as long as is believed after the sheet is gone, and the drop needs some ms more to the water.
    stands = CERTAIN.column_stands_s.mean
    assert life + 0.5 * stands < max(found[On.COLUMN]) < life + stands + 0.02
    # A column that stands for no time is met by none, one that stands longer by more.
    none, longer = (replace(CERTAIN, column_stands_s=Prior(seconds, 0.0)) for seconds in (1e-6, 0.2))
    late = 1e3 * (met + max(found[On.COLUMN]) + 0.004 - fall)
    for belief, on in ((none, On.NOTHING), (CERTAIN, On.NOTHING), (longer, On.COLUMN)):
        what = foreseen(*train(0, 95), *train(late, valve=1, open_ms=10), setup=setup, belief=belief)
        assert what.meetings.on[2, 0] == on


def test_the_column_sinks_slowly_from_where_the_sheet_left_it():
    what = foreseen(*train(0, 95))
    met, life = float(what.meetings.time_s[1, 0]), float(what.meetings.sheet_life_s[1, 0])
    at = [float(at_instant(what, round(1e6 * (met + life + s))).column_m[1, 0]) for s in (1e-3, 11e-3, 60e-3)]
    assert at[0] - at[1] == pytest.approx(0.010 * CERTAIN.column_sinks_m_s.mean, rel=1e-3)
    assert np.isnan(at[2])
    # Some start of a third drop comes upon it.
    told = [{(e.kind, e.drop) for e in events(foreseen(*train(0, 95, ms)))} for ms in range(130, 180, 5)]
    hits = [(EventKind.COLUMN_HIT, 3) in kinds for kinds in told]
    assert any(hits) and not all(hits)


def test_a_drop_into_an_open_crater_takes_its_jet_and_throws_a_wild_one():
    alone, what = foreseen(*train(0, 800)), foreseen(*train(0, 45))
    assert what.splashes.in_crater[1, 0] and not what.splashes.in_crater[0, 0]
    assert what.splashes.ends_s[0, 0] == what.falls.touchdown_s[1, 0] < what.splashes.jet_s[0, 0]
    assert what.splashes.jet_m_s[1, 0] == pytest.approx(CRATER_JET_SHARE * alone.splashes.jet_m_s[1, 0])
    said = {(e.kind, e.drop) for e in events(what)}
    assert (EventKind.CRATER_STRUCK, 2) in said and (EventKind.JET_RISES, 2) in said
    assert (EventKind.JET_RISES, 1) not in said and (EventKind.CROWN_TOP, 2) not in said
    shown = shape_probabilities(what, round(1e6 * (what.falls.touchdown_s[1, 0] + 0.01)))
    assert shown == {"crater-hit": 1.0}
    # Wild: spread far wider than that of the jet of calm water.
    wild, calm = (
        foreseen(*train(0, ms), belief=replace(TAUGHT, merge_ratio=Prior(0.1, 0.01))).splashes.jet_m_s[1]
        for ms in (45, 800)
    )
    assert np.nanstd(wild) / np.nanmean(wild) > 3 * np.nanstd(calm) / np.nanmean(calm)


def test_a_drop_that_overtakes_another_in_the_air_goes_on_with_mass_and_momentum_of_both():
    setup = Setup(valves=(Valve(), Valve(nozzle_height_m=1.2)))
    low, high = foreseen(*train(0), setup=setup), foreseen(*train(0, valve=1), setup=setup)
    start = 300 + 1e3 * (low.falls.touchdown_s[0, 0] - high.falls.touchdown_s[0, 0]) - 15
    what = foreseen(*train(300), *train(start, valve=1), setup=setup)
    falls = what.falls
    assert falls.merged[:, 0].tolist() == [False, True] and np.isnan(falls.touchdown_s[1, 0])
    volumes = low.falls.diameter_m[0, 0] ** 3, high.falls.diameter_m[0, 0] ** 3
    assert falls.diameter_m[0, 0] ** 3 == pytest.approx(sum(volumes))
    momentum = sum(v * w.falls.impact_m_s[0, 0] for v, w in zip(volumes, (low, high), strict=True))
    assert falls.impact_m_s[0, 0] * sum(volumes) == pytest.approx(momentum)
    assert (EventKind.JOINED, 2) in {(e.kind, e.drop) for e in events(what)}
    assert shape_probabilities(what, round(1e6 * (falls.touchdown_s[0, 0] + 0.01))) == {"merged-drop": 1.0}
    # Fifty milliseconds apart at the water they do not touch.
    apart = foreseen(*train(300), *train(start + 65, valve=1), setup=setup)
    assert not apart.falls.merged.any()


def test_drops_of_valves_apart_splash_apart_and_nearer_nothing_is_foreseen():
    pulses = (*train(0), *train(3, valve=1))
    for aside_m, spots, foretold in ((0.0, 1, True), (0.012, 2, False), (0.06, 2, True)):
        setup = Setup(valves=(Valve(), Valve(aside_m=aside_m)))
        what = foreseen(*pulses, setup=setup)
        assert len(what.spots) == spots and bool(np.isinf(what.unforeseen_s).all()) == foretold
        if aside_m == 0.012:
            after = round(1e6 * (what.unforeseen_s[0] + 0.02))
            assert shape_probabilities(what, after) == {NOT_FORESEEN.key: 1.0}
            # What came before is told, what comes after is not.
            assert {e.kind for e in events(what)} & {EventKind.JET_RISES, EventKind.JET_TOP} == set()
        elif spots == 2:
            assert np.isfinite(what.splashes.jet_s[:, 0]).all() and not what.splashes.in_crater.any()
    # One after the other on the same two spots: the first splash is over before the other begins.
    setup = Setup(valves=(Valve(), Valve(aside_m=0.012)))
    assert np.isinf(foreseen(*train(0), *train(900, valve=1), setup=setup).unforeseen_s).all()


def test_a_drop_falls_as_its_own_liquid_and_the_pool_splashes_as_its_own():
    syrup = replace(TIDAL_MILL.mix, glycerine_mass_fraction=0.9)
    thick = replace(TIDAL_MILL, valves=(replace(TIDAL_MILL.valves[0], liquid=syrup),))
    one, other = (foreseen(*train(0, 95), setup=setup) for setup in (TIDAL_MILL, thick))
    assert other.falls.terminal_m_s[0, 0] > one.falls.terminal_m_s[0, 0]
    assert other.pool == one.pool == TIDAL_MILL.mix.liquid()


@pytest.mark.parametrize("drops", [9, 30])
def test_more_drops_than_can_be_fired_are_still_foreseen(drops):
    what = foreseen(*train(*(150 * n for n in range(drops))), belief=TAUGHT)
    assert np.isfinite(what.falls.touchdown_s).all() and events(what)


def test_a_column_is_met_on_each_rig_as_long_as_it_stands_on_that_rig():
    rigs = sample_rigs(Belief(), 256)
    met = missed = 0
    for third_ms in range(150, 200, 4):
        what = forecast(Setup(), Belief(), Sequence.with_one_flash(train(0, 95, third_ms), 0), rigs)
        meets = what.meetings
        late_s = meets.time_s[2] - meets.time_s[1] - meets.sheet_life_s[1]
        on_column = meets.on[2] == On.COLUMN
        assert (late_s[on_column] < rigs.column_stands_s[on_column]).all()
        # Some stand longer than that of the mean rig, some shorter.
        met += int((on_column & (late_s > rigs.column_stands_s[0])).sum())
        missed += int((on_column & (rigs.column_stands_s < rigs.column_stands_s[0])).sum())
    assert met > 0 and missed > 0


def test_drops_touch_with_their_lower_edge():
    what = foreseen(*train(0, 95))
    falls, meets = what.falls, what.meetings
    # Worked with the closed form of the fall, from the outlet down to half a diameter over the water.
    way = Valve().nozzle_height_m - falls.diameter_m[0, 0] / 2
    lasts = falls.touchdown_s[0, 0] - falls.release_s[0, 0]
    assert fall_time_s(way, falls.start_m_s[0, 0], falls.terminal_m_s[0, 0]) == pytest.approx(lasts)
    just = round(meets.time_s[1, 0] * 1e6) - 1
    now = at_instant(what, just)
    assert now.drop_height_m[1, 0] - now.jet_tip_m[0, 0] == pytest.approx(falls.diameter_m[1, 0] / 2, abs=4e-4)


def test_a_drop_that_goes_through_an_old_sheet_lands_and_splashes():
    setup = Setup(valves=(Valve(), Valve(nozzle_height_m=0.6)), triggers=Triggers(valve_jitter_s=0.0))
    pair = foreseen(*train(0, 95), setup=setup)
    met, life = pair.meetings.time_s[1, 0], pair.meetings.sheet_life_s[1, 0]
    fall = foreseen(*train(0, valve=1, open_ms=10), setup=setup).falls.touchdown_s[0, 0]
    found = [
        foreseen(*train(0, 95), *train(1e3 * (met + late - fall), valve=1, open_ms=10), setup=setup)
        for late in np.arange(0.6 * life, 1.2 * life, 0.5e-3)
    ]
    what = next(one for one in found if (one.meetings.on[2] == On.THROUGH).all())
    passes, lands = float(what.meetings.time_s[2, 0]), float(what.splashes.touchdown_s[2, 0])
    assert lands == what.falls.touchdown_s[2, 0] > passes
    # The sheet stands on, no other opens; the drop is still to be seen.
    between = at_instant(what, round(1e6 * (passes + lands) / 2))
    assert np.isfinite(between.sheet_radius_m[:, 0]).tolist() == [False, True, False]
    assert np.isfinite(between.drop_height_m[2, 0])
    shown = [next(iter(shape_probabilities(what, round(1e6 * at)))) for at in ((passes + lands) / 2, lands + 0.5e-3)]
    assert shown == ["pass-through", "touchdown"]
    # Told along time it is the same, and nothing stands beside it.
    course = phases(what, what.spots[0])
    for at, key in (((passes + lands) / 2, "pass-through"), (lands + 0.5e-3, "touchdown")):
        assert KEYS[course.at(at)[0]] == key
        assert ((course.start_s[:, 0] <= at) & (at < course.end_s[:, 0])).sum() == 1
    said = {(e.kind, e.drop) for e in events(what)}
    assert {(EventKind.PASSES, 3), (EventKind.TOUCHDOWN, 3), (EventKind.JET_RISES, 3)} <= said
    assert not {(EventKind.SHEET_HIT, 3), (EventKind.SHEET_FULL, 3)} & said


def test_a_late_drop_meets_a_bead_that_brakes_it_less():
    early, late = (replace(CERTAIN, bead_time_factor=Prior(factor, 0.0)) for factor in (0.5, 3.0))
    bead, jet = (foreseen(*train(0, 95), belief=belief) for belief in (early, late))
    assert bead.meetings.on[1, 0] == On.BEAD and jet.meetings.on[1, 0] == On.JET
    for name in ("time_s", "height_m", "closing_m_s", "sheet_life_s"):
        assert getattr(bead.meetings, name)[1, 0] == getattr(jet.meetings, name)[1, 0]
    assert bead.meetings.sheet_m_s[1, 0] < jet.meetings.sheet_m_s[1, 0] < 0
    assert bead.meetings.brake_m[1, 0] > jet.meetings.brake_m[1, 0]
    assert bead.meetings.widest_m[1, 0] < jet.meetings.widest_m[1, 0]
    said = [{e.kind for e in events(what)} for what in (bead, jet)]
    assert EventKind.BEAD_HIT in said[0] and EventKind.BEAD_HIT not in said[1]
    assert all(EventKind.MEETING in kinds for kinds in said)


def test_drops_far_off_the_axis_of_a_leaning_jet_miss_it():
    for lean, least, most in ((0.0, 0.0, 0.0), (0.05, 0.0, 0.02), (0.4, 0.3, 0.9)):
        belief = replace(TAUGHT, variation=Variation(0.0, 0.0, lean, 0.0, 0.0))
        what = forecast(TIDAL_MILL, belief, Sequence.with_one_flash(train(0, 95, open_ms=22), 0))
        missed = np.isfinite(what.splashes.touchdown_s[1])
        assert least <= missed.mean() <= most
        # Who misses lands on the water beside.
        assert not what.splashes.in_crater[1, missed].any()


def test_small_drops_from_a_low_nozzle_trap_bubbles_and_throw_fast_jets():
    # Pumphrey & Elmore 1990 (from memory): at 15 cm drops of some 8 ms lie in the window, those of 20 ms beyond it.
    setup = Setup(valves=(Valve(nozzle_height_m=0.15),))
    small, usual = (forecast(setup, Belief(), Sequence(train(0, open_ms=ms), ())) for ms in (8, 20))
    inside, outside = (float((what.splashes.outside_entrainment[0] < 0).mean()) for what in (small, usual))
    assert inside > 0.5 and outside < 0.1
    trapped = small.splashes.outside_entrainment[0] < -0.1
    speed = small.splashes.jet_m_s[0] / np.sqrt(G * small.splashes.crater_m[0]) / small.rigs.jet_speed_factor
    assert np.nanmedian(speed[trapped]) > 1.2 * np.nanmedian(speed[~trapped])
