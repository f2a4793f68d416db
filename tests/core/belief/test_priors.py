"""Beliefs as values: addressed by content, read back from what older versions wrote."""

import json
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief, Prior, Variation, belief_from_dict, belief_from_json

NAMES = sorted(Belief().priors)


@given(st.sampled_from(NAMES), st.floats(0.01, 3), st.floats(0, 1), st.floats(0, 0.1))
def test_a_belief_survives_json_and_keeps_its_address(name, mean, sd, varies):
    belief = replace(Belief(), **{name: Prior(mean, sd)}, variation=Variation(varies))
    again = belief_from_json(belief.to_json())
    assert again == belief and again.revision == belief.revision


def test_another_number_is_another_revision():
    assert Belief().revision == Belief().revision
    assert replace(Belief(), lag_s=Prior(8e-3, 5e-3)).revision != Belief().revision
    assert replace(Belief(), variation=Variation(0.02)).revision != Belief().revision
    assert len(Belief().revision) == 16


def test_what_is_left_out_takes_its_default_and_what_is_unknown_is_passed_over():
    assert belief_from_dict({}) == Belief()
    found = belief_from_dict({"lag_s": {"mean": 0.01, "sd": 0.001}, "of_a_later_version": {"mean": 1, "sd": 1}})
    assert found == replace(Belief(), lag_s=Prior(0.01, 0.001))


def test_of_a_belief_of_an_older_law_only_what_still_holds_is_taken():
    old = json.loads(replace(Belief(), lag_s=Prior(0.012, 0.001), energy_share=Prior(0.4, 0.01)).to_json())
    old |= {"start_speed_m_s": {"mean": 0.4, "sd": 0.1}, "learned": {"names": ["lag_s"], "packed": "AAAA"}}
    # When it hit, how large it was: that is as it was. Its splash, and what shots taught, is learned anew.
    assert belief_from_dict(old) == replace(Belief(), lag_s=Prior(0.012, 0.001))


def test_every_number_of_the_rig_has_a_prior_and_nothing_else_has():
    assert "variation" not in Belief().priors and len(NAMES) == 18
    assert all(isinstance(prior, Prior) for prior in Belief().priors.values())


def test_the_default_column_is_the_one_that_the_docs_tell():
    """docs/physics.md: 50 ± 20 ms, 0.10 ± 0.06 m/s."""
    assert Belief().column_stands_s == Prior(0.05, 0.02) and Belief().column_sinks_m_s == Prior(0.1, 0.06)
