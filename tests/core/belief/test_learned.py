"""A joint belief as rigs: packed, drawn from, and refused where it is none."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.belief.learned import Learned
from ondine.core.belief.priors import Belief, belief_from_dict, belief_from_json
from ondine.core.belief.rigs import check_belief, sample_rigs

VALUES = {name: np.linspace(0.9, 1.1, 40) * (prior.mean or 1e-3) for name, prior in Belief().priors.items()}
VALUES |= {"flash_lag_s": np.linspace(0.05, 0.07, 40), "jitter_s": np.full(40, 1.5e-3)}
TAUGHT = replace(Belief(), learned=Learned.of(VALUES))


def test_half_precision_keeps_three_digits():
    read = TAUGHT.learned.values()
    for name, column in VALUES.items():
        np.testing.assert_allclose(read[name], column, rtol=6e-4, atol=1e-7)


def test_a_learned_belief_survives_its_json_and_an_unlearned_one_keeps_its_old_address():
    assert belief_from_json(TAUGHT.to_json()) == TAUGHT
    assert TAUGHT.revision != Belief().revision
    assert "learned" not in Belief().to_json()
    check_belief(TAUGHT)


@pytest.mark.parametrize("count", [10, 40, 100, 256])
def test_rigs_are_drawn_evenly_from_those_that_are_left(count):
    rigs = sample_rigs(TAUGHT, count)
    assert rigs.count == count
    assert rigs.lag_s[0] == pytest.approx(VALUES["lag_s"][0], rel=1e-3)
    assert rigs.flash_lag_s.mean() == pytest.approx(0.06, rel=0.05)
    times = np.unique(rigs.flash_lag_s, return_counts=True)[1]
    assert times.max() - times.min() <= 1


def test_what_hangs_together_stays_together():
    rigs = sample_rigs(TAUGHT, 256)
    assert np.corrcoef(rigs.lag_s, rigs.energy_share)[0, 1] > 0.999
    apart = sample_rigs(Belief(), 256)
    assert abs(np.corrcoef(apart.lag_s, apart.energy_share)[0, 1]) < 0.1


def test_a_light_that_comes_late_makes_everything_seem_early():
    from ondine.core.forecast.whole import forecast
    from ondine.core.setup import Setup
    from ondine.core.timing.sequence import Pulse, Sequence

    late = {name: values.copy() for name, values in VALUES.items()}
    late["flash_lag_s"] = late["flash_lag_s"] + 0.03
    one = Sequence((Pulse(0, 20_000),), ())
    soon, later = (
        forecast(Setup(), replace(Belief(), learned=Learned.of(values)), one).splashes.touchdown_s[0]
        for values in (late, VALUES)
    )
    assert np.mean(later - soon) == pytest.approx(0.03, abs=2e-4)


@pytest.mark.parametrize(
    "packed", ["", "?", "AAAA", "AH4AfgB+" * 9, Learned.of(dict.fromkeys(VALUES, VALUES["lag_s"] * np.inf)).packed]
)
def test_what_is_no_table_of_rigs_is_refused_in_a_sentence(packed):
    with pytest.raises(ValueError, match=r"learned\.packed"):
        check_belief(replace(Belief(), learned=Learned(tuple(VALUES), packed)))


@pytest.mark.parametrize("names", [(), ("nonsense",), ("lag_s",), tuple(VALUES)[1:], (*VALUES, "lag_s")])
def test_rigs_that_lack_a_number_or_have_one_twice_are_refused(names):
    columns = {f"{n}": np.ones(4) for n in range(len(names))}
    packed = Learned.of(columns).packed if columns else ""
    with pytest.raises(ValueError, match=r"learned\.names"):
        belief_from_dict({"learned": {"names": list(names), "packed": packed}})


def test_numbers_of_a_newer_ondine_are_passed_over():
    newer = replace(Belief(), learned=Learned.of(VALUES | {"temper": np.full(40, -5.0)}))
    check_belief(newer)
    assert sample_rigs(newer, 40).lag_s.std() > 0


def test_numbers_that_no_rig_has_are_refused():
    with pytest.raises(ValueError, match="learned jet_speed_factor"):
        check_belief(replace(Belief(), learned=Learned.of(VALUES | {"jet_speed_factor": -VALUES["jet_speed_factor"]})))


@given(st.text(max_size=40))
def test_any_text_is_refused_without_a_crash(text):
    try:
        Learned(("lag_s",), text).values()
    except ValueError as error:
        assert str(error)
