"""The table of how shapes are tagged."""

import numpy as np

from ondine.core.belief.priors import Variation
from ondine.core.coach.tags import _NEIGHBOURS, FLOOR, TAGGED_AS, WRONG_SHARE, clean_share
from ondine.core.forecast.phases import INDEX
from ondine.core.forecast.shapes import SHAPES


def test_each_shape_is_tagged_as_something():
    own = [INDEX[shape.key] for shape in SHAPES]
    tagged = TAGGED_AS[np.ix_(own, own)]
    np.testing.assert_allclose(tagged.sum(axis=0), 1, atol=1e-12)
    assert tagged.min() >= FLOOR * 0.999


def test_luck_spoils_some_shots():
    assert clean_share(Variation(satellites_share=0.05), 1) == 0.95
    assert 0.9 < clean_share(Variation(satellites_share=0.05), 2) < 0.95


def test_most_tags_are_right_and_none_is_impossible():
    for shape in SHAPES:
        own = TAGGED_AS[INDEX[shape.key], INDEX[shape.key]]
        assert own > 0.8 and own <= 1 - WRONG_SHARE + FLOOR + 1e-12
    assert all(one in INDEX and other in INDEX for one, other in _NEIGHBOURS)
