import math
from dataclasses import replace

import numpy as np
import pytest
import scipy.stats
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Mix, Setup
from ondine.core.table.course import RUN, CourseShot, courses, running_share, usual_goal
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence

PAIR = Sequence((Pulse(0, 22_000), Pulse(95_000, 22_000)), (FlashPulse(356_000),))
TABLE = Setup()


def shot(n: int, shapes: tuple[str, ...] = (), note: str = "", setup: Setup | None = TABLE, **figures: float):
    return CourseShot(1e6 + 60.0 * n, PAIR, setup, figures, shapes, note)


def of(name: str, shots: list[CourseShot], goal: str | None = None):
    return next((course for course in courses(shots, goal) if course.name == name), None)


def test_a_sinking_head_is_told_with_its_speed():
    head = of("head", [shot(n, head_mm=120.0 - 0.5 * n) for n in range(20)])
    assert head.drift.is_real and head.drift.tau == -1
    # Half a millimetre a minute.
    assert head.words == "110 to 120 mm, falls by 30 mm an hour"
    assert head.minutes.tolist() == list(range(20))


def test_a_head_that_holds_drifts_by_nothing():
    rng = np.random.default_rng(4)
    values = 120 + rng.normal(0, 1, 30)
    head = of("head", [shot(n, head_mm=float(v)) for n, v in enumerate(values)])
    tau, chance = scipy.stats.kendalltau(np.arange(30), values, method="asymptotic")
    assert head.drift.tau == pytest.approx(tau) and head.drift.chance == pytest.approx(chance, abs=0.01)
    assert "no drift" in head.words


def test_the_same_value_all_evening_is_one_number():
    assert of("temperature of the liquid", [shot(n, temperature_c=19.0) for n in range(6)]).words == "19.0 °C"


def test_heights_come_from_notes_and_only_from_those_that_tell_one():
    shots = [shot(0, note="height 23 mm"), shot(1, note="nice"), shot(2, note="height 2,5 cm")]
    height = of("height off the pictures", shots)
    assert height.values.tolist() == pytest.approx([23, 25]) and height.minutes.tolist() == [0, 2]
    assert of("height off the pictures", shots[:2]) is None


def test_hits_count_tagged_shots_alone_and_run_over_the_last_few():
    shots = [shot(n, ("full-umbrella",) if n % 2 else ("contact",)) for n in range(12)] + [shot(12)]
    hits = of("hits", shots, "full-umbrella")
    assert len(hits.values) == 12 and hits.values.sum() == 6
    share = running_share(hits)
    assert share[0] == 0 and share[1] == 0.5 and share[-1] == 0.5
    assert share[RUN + 1] == pytest.approx(hits.values[2 : RUN + 2].mean())
    assert of("hits", shots, None) is None


def test_the_goal_is_the_collision_that_was_tagged_most():
    assert usual_goal([]) is None and usual_goal([shot(0)]) is None
    assert (
        usual_goal([shot(0, ("crown",)), shot(1, ("crown",)), shot(2, ("full-umbrella", "blurred"))]) == "full-umbrella"
    )
    assert usual_goal([shot(0, ("crown",)), shot(1, ("crown",)), shot(2, ("crater",))]) == "crown"
    assert usual_goal([shot(0, ("own-twin",)), shot(1, ("crown",))]) == "own-twin"


def test_what_falls_into_the_bowl_is_reckoned_from_flow_and_openings():
    dyed = replace(TABLE, mix=Mix(dye_mass_fraction=0.01))
    shots = [shot(n, setup=dyed) for n in range(10)]
    fallen, dye = of("fallen into the bowl", shots), of("dye in the bowl", shots)
    valve = dyed.valves[0]
    each_ml = 2 * valve.flow_m3_s * (22e-3 - valve.dead_time_s) * 1e6
    assert fallen.values[-1] == pytest.approx(10 * each_ml)
    bowl_ml = math.pi / 4 * dyed.bowl.diameter_m**2 * dyed.bowl.depth_m * 1e6
    assert dye.values[-1] == pytest.approx(10 * each_ml * 0.01 / bowl_ml * 1e6)
    assert of("dye in the bowl", [shot(n) for n in range(3)]) is None


@given(st.lists(st.sampled_from([(), ("crown",), ("full-umbrella",)]), max_size=25))
def test_any_sitting_has_a_course_that_can_be_told(tags):
    shots = [shot(n, shapes) for n, shapes in enumerate(tags)]
    for course in courses(shots, usual_goal(shots)):
        assert len(course.minutes) == len(course.values) >= 2 and course.words
        assert np.isfinite(course.values).all() and np.all((running_share(course) >= 0) | (course.name != "hits"))


def test_a_table_that_cannot_be_read_hides_nothing_else():
    assert of("head", [shot(n, setup=None, head_mm=100.0 + n) for n in range(3)]).values.tolist() == [100, 101, 102]
