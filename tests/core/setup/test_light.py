import pytest

from ondine.core.setup.light import Flash, Light, Step


def test_the_first_unit_is_the_key_unit():
    light = Light((Flash("A", 1 / 8), Flash("B", 1 / 64)))
    assert light.key.name == "A" and light.power == 1 / 8


@pytest.mark.parametrize(
    ("x", "up", "aside", "away"), [(0.3, 0.4, 0.0, 0.5), (-0.2, 0.3, 0.6, 0.7), (0.0, 0.2, 0.0, 0.2)]
)
def test_the_distance_is_that_of_the_straight_line(x, up, aside, away):
    # Pythagorean quadruples.
    assert Flash(x_m=x, height_m=up, aside_m=aside).distance_m == pytest.approx(away)


def test_clicks_in_a_stop():
    assert [step.per_stop for step in (Step.FULL, Step.HALF, Step.THIRD)] == [1, 2, 3]
