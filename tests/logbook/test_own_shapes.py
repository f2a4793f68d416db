import pytest

from ondine.core.forecast.shapes import SHAPES, ShapeGroup
from ondine.logbook.errors import LogbookError


def test_a_shape_of_one_s_own_has_a_key_a_letter_and_a_glyph(logbook):
    made = logbook.shapes.add("  Twin   crown ", "t", "ring")
    assert (made.key, made.name, made.letter, made.glyph) == ("own-twin-crown", "Twin crown", "T", "ring")
    assert logbook.shapes.all() == (*SHAPES, made.shape) and made.shape.group is ShapeGroup.OWN
    assert "Twin crown" in logbook.names.words().shapes


@pytest.mark.parametrize(
    ("name", "letter", "why"),
    [
        ("", "X", "needs a name"),
        ("  - ", "X", "needs a name"),
        ("Crown", "X", "already"),
        ("twin", "1", "one letter"),
        ("twin", "", "one letter"),
        ("twin", "Ä", "one letter"),
        ("other", "T", "Choose another letter"),
        ("TWIN CROWN", "X", "already"),
    ],
)
def test_what_makes_no_sense_is_refused(logbook, name, letter, why):
    logbook.shapes.add("twin crown", "T", "ring")
    with pytest.raises(LogbookError, match=why):
        logbook.shapes.add(name, letter, "ring")
    assert len(logbook.shapes.own()) == 1


def test_names_that_look_alike_in_ascii_are_told_apart(logbook):
    keys = {
        logbook.shapes.add(name, letter, "ring").key for name, letter in (("Över", "A"), ("Over", "B"), ("滴", "C"))
    }
    assert keys == {"own-over", "own-over-2", "own-shape"}


def test_a_forgotten_shape_leaves_its_tags(logbook, sequence, setup):
    from ondine.core.forecast.plan import Plan
    from ondine.logbook.records import SittingFacts
    from tests.logbook.test_store import NOON

    shot = logbook.shots.plan(logbook.sittings.begin(SittingFacts("s"), NOON), Plan(sequence, setup), NOON)
    made = logbook.shapes.add("twin crown", "T", "ring")
    logbook.shots.toggle_tag(shot, made.key)
    logbook.shapes.forget(made.key)
    assert logbook.shapes.own() == [] and logbook.shots.get(shot).shapes == ("own-twin-crown",)
