"""Fields that know their limits, reached by paths; and laws over every field that a set-up has."""

from dataclasses import fields, is_dataclass, replace

import pytest

from ondine.core.setup import Setup
from ondine.core.setup.box import Box, Counts, FlashFrom
from ondine.core.setup.fields import about, leaves, out_of_limits, put, read
from ondine.core.setup.light import DialKind, DurationPoint, Flash, FlashKind, Light, Measure, Place, Step, Tone
from ondine.core.setup.rig import Method
from ondine.core.setup.triggers import FlashFiredBy, Release
from ondine.demo.scenario import TIDAL_MILL

FULL = put(TIDAL_MILL, "light.units.0.durations", (DurationPoint(), DurationPoint(0.1, 1e-4)))
NUMBERS = [path for path, _ in leaves(FULL) if about(FULL, path).low is not None]


@pytest.mark.parametrize("path", NUMBERS)
def test_every_number_is_inside_at_its_limits_and_outside_beyond(path):
    known = about(FULL, path)
    kind = int if isinstance(read(FULL, path), int) else float
    beyond = 1 if kind is int else (known.high - known.low) * 1e-6
    for value in (known.low, known.high):
        assert list(out_of_limits(put(FULL, path, kind(value)))) == []
    for value in (known.low - beyond, known.high + beyond):
        ((found, seen, said),) = out_of_limits(put(FULL, path, kind(value)))
        assert (found, seen, said) == (path, kind(value), known)


@pytest.mark.parametrize("path", [path for path, _ in leaves(FULL)])
def test_every_field_has_a_name_for_people_and_a_default_that_can_be(path):
    known = about(FULL, path)
    assert known.says and known.says[0].isupper() and "_" not in known.says
    assert put(FULL, path, read(FULL, path)) == FULL
    assert list(out_of_limits(Setup())) == list(out_of_limits(FULL)) == []


def test_numbers_of_one_owner_do_not_share_a_name():
    def names(owner):
        listed = [f.metadata["about"].says for f in fields(owner) if "about" in f.metadata]
        assert len(listed) == len(set(listed)), owner
        for f in fields(owner):
            held = getattr(owner, f.name)
            for part in held if isinstance(held, tuple) else (held,):
                if is_dataclass(part):
                    names(part)

    names(FULL)


def test_paths_go_through_lists_and_leave_the_rest_alone():
    two = replace(Setup(), light=Light((Flash("A"), Flash("B"))))
    changed = put(two, "light.units.1.power", 0.25)
    assert read(changed, "light.units.1.power") == 0.25
    assert changed.light.units[0] is two.light.units[0] and changed.valves is two.valves
    assert put(two, "light.units.1", Flash("C")).light.units == (Flash("A"), Flash("C"))
    with pytest.raises(KeyError, match="colour_of_the_moon"):
        about(two, "valves.0.colour_of_the_moon")


def test_leaves_come_in_the_order_in_which_they_are_declared():
    found = [path for path, _ in leaves(FULL)]
    assert found[0] == "name" and len(found) == len(set(found))
    assert found.index("valves.0.nozzle_height_m") < found.index("bowl.diameter_m") < found.index("light.units.0.power")
    assert "light.units.0.durations.1.duration_s" in found


@pytest.mark.parametrize(
    "words", [Counts, FlashFrom, DialKind, FlashKind, Measure, Place, Step, Tone, Method, FlashFiredBy, Release]
)
def test_choices_are_told_apart_by_their_words_and_read_back_from_them(words):
    assert len({str(one) for one in words}) == len(words)
    assert all(words(str(one)) is one for one in words)


def test_a_box_knows_no_more_drops_than_a_sequence_and_steps_fit_its_range():
    from ondine.core.timing.limits import MAX_DROPS

    assert about(Box(), "max_drops").high == MAX_DROPS
    assert Box().least_us < Box().step_us < Box().most_us and Box().most_us % Box().step_us == 0


def test_a_list_has_one_part_at_least_unless_it_says_otherwise():
    assert about(TIDAL_MILL, "valves").least == 1 and about(TIDAL_MILL, "light.units").least == 1
    assert about(TIDAL_MILL, "light.units.0.durations").least == 0
