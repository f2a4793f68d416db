"""What was learned, in words; and that putting a number right changes nothing that was learned."""

from dataclasses import replace

import numpy as np
import pytest

from ondine.bench.simulated.population import make_rig
from ondine.core.belief.priors import Belief
from ondine.core.coach.changes import Correction, is_put_right
from ondine.core.coach.evidence import Seen
from ondine.core.coach.facts import corrected, facts, taught_most
from ondine.core.coach.learning import Evidence, learn
from ondine.core.coach.unknowns import Unknowns, evenly_drawn
from ondine.core.forecast.whole import forecast
from ondine.core.setup import FlashFiredBy, Setup, Triggers
from ondine.core.timing.sequence import Pulse, Sequence
from tests.core.coach.test_learning import shots, spread


def test_where_the_drop_lands_is_said_first():
    evidence = shots(4, 14)
    known = learn(evidence, evidence[0].setup, Belief())
    sequence = evidence[0].seen.sequence
    truth_ms = make_rig(4).events_s(sequence)["touchdown"] * 1e3
    first = facts(known, sequence)[0]
    assert first.says.startswith("Drop 1 lands ") and first.correction is None
    said = float(first.says.split()[3])
    assert said == pytest.approx(truth_ms, abs=8)
    assert not facts(learn([], Setup(), Belief()), sequence)


def test_jitter_that_was_entered_too_small_is_said_and_put_right():
    rig = make_rig(3)
    size, known_at = rig.start.drops[0].open_us, rig.events_s(rig.start)
    pair = (Pulse(0, size), Pulse(size + 75_000, size))
    at = int(known_at["sheet widest"] * 1e6)
    evidence = []
    for number in range(60):
        sequence = Sequence.with_one_flash(pair, at + 1_000 * (number % 9 - 4))
        evidence.append(Evidence(rig.setup, Seen(sequence, rig.fire(sequence), shot=number)))
    known = learn(evidence, rig.setup, Belief())
    found = [fact for fact in facts(known, rig.start) if "vary by" in fact.says]
    assert found and found[0].correction.path == "triggers.valve_jitter_s"
    right = corrected(rig.setup, found[0].correction)
    assert 0.8e-3 < right.triggers.valve_jitter_s < 3e-3
    # Once it is entered so, there is nothing to say of it.
    again = learn(evidence, right, Belief(), corrections=frozenset({found[0].correction}))
    assert not [fact for fact in facts(again, rig.start) if "vary by" in fact.says]


def test_a_number_put_right_is_no_change_of_the_table():
    evidence = shots(4, 14)
    table, sequence = evidence[0].setup, evidence[0].seen.sequence
    height = table.valves[0].nozzle_height_m
    right = Correction("valves.0.nozzle_height_m", height, round(height + 0.004, 3))
    after = corrected(table, right)
    known = learn(evidence, table, Belief())
    kept = learn(evidence, after, Belief(), corrections=frozenset({right}))
    lost = learn(evidence, after, Belief())
    assert not kept.changes and lost.changes
    assert spread(lost, "height_error_m") == pytest.approx(1, abs=0.05)
    lands = [landing(one, sequence) for one in (known, kept)]
    assert lands[1].mean() == pytest.approx(lands[0].mean(), abs=5e-4)
    assert lands[1].std() == pytest.approx(lands[0].std(), rel=0.1)


def landing(known, sequence) -> np.ndarray:
    unknowns = known.belief.unknowns
    what = forecast(unknowns.setup, Belief(), sequence, unknowns.rigs(known.belief.even(4096)))
    return what.splashes.touchdown_s[0]


def test_only_what_was_put_right_is_excused():
    table = make_rig(4).setup
    height = table.valves[0].nozzle_height_m
    right = Correction("valves.0.nozzle_height_m", height, height + 0.01)
    after = corrected(table, right)
    assert is_put_right(table, after, frozenset({right}))
    assert not is_put_right(table, after, frozenset())
    other = replace(after, mix=replace(after.mix, glycerine_mass_fraction=0.33))
    assert not is_put_right(table, other, frozenset({right}))
    assert not is_put_right(table, table, frozenset({right}))


def test_a_number_put_right_twice_is_no_change_either():
    table = make_rig(4).setup
    height = table.valves[0].nozzle_height_m
    first = Correction("valves.0.nozzle_height_m", height, height + 0.01)
    second = Correction("valves.0.nozzle_height_m", height + 0.01, height + 0.006)
    back = Correction("valves.0.nozzle_height_m", height + 0.006, height)
    flow = Correction("valves.0.flow_m3_s", table.valves[0].flow_m3_s, 2.7e-6)
    all_of_them = frozenset({first, second, back, flow})
    twice = corrected(corrected(table, second), flow)
    assert is_put_right(table, twice, all_of_them)
    assert is_put_right(
        twice, corrected(table, first), frozenset({back, first, Correction(flow.path, 2.7e-6, flow.before)})
    )
    # Half of the way was nobody's correction.
    assert not is_put_right(table, twice, frozenset({first, flow}))
    assert not is_put_right(table, twice, frozenset({second, flow}))


def test_coordinates_are_the_way_back_from_values():
    unknowns = Unknowns(Belief(), Setup())
    points = np.clip(evenly_drawn(300, len(unknowns.names), np.random.default_rng(1)), -2, 2)
    back = unknowns.coordinates(unknowns.values(points))
    bounded = [unknowns.names.index(name) for name in (
        "outlet_factor", "momentum_factor", "sheet_peak_share", "energy_share", "jet_delay_factor", "jet_slowing_factor", "column_sinks_m_s",
    )]  # fmt: skip
    free = [k for k in range(points.shape[1]) if k not in bounded]
    np.testing.assert_allclose(back[:, free], points[:, free], atol=1e-9)
    again = unknowns.values(back)
    for name, values in unknowns.values(points).items():
        np.testing.assert_allclose(again[name], values, atol=1e-12)


def test_a_lag_of_the_camera_can_be_taken_up_and_one_of_a_wire_cannot():
    rig = make_rig(2)
    by_camera = replace(rig.setup, triggers=Triggers(flash_fired_by=FlashFiredBy.CAMERA))
    for table, takes in ((by_camera, True), (rig.setup, False)):
        evidence = [replace(one, setup=table) for one in shots(2, 20)]
        said = [fact for fact in facts(learn(evidence, table, Belief()), rig.start) if "The light comes" in fact.says]
        for fact in said:
            assert (fact.correction is not None) == takes


def test_the_shots_that_taught_most_are_named():
    evidence = shots(3, 9)
    named = taught_most(learn(evidence, evidence[0].setup, Belief()))
    assert len(named) == 4 and list(named) == sorted(named) and set(named) <= set(range(1, 10))
    assert taught_most(learn([], Setup(), Belief())) == ()
