from dataclasses import replace

from ondine.core.setup.box import Box
from ondine.core.setup.fields import out_of_limits
from ondine.core.timing.dials import dials
from ondine.demo.scenario import START


def test_a_hand_turns_the_dials_only_where_it_is_said():
    assert not Box().in_use


def test_the_box_calls_its_dials_what_its_owner_calls_them():
    box = replace(Box(), open_name="Size", wait_name="Then", flash_name="Light")
    names = " ".join(dial.name for dial in dials(START, box))
    assert all(word in names for word in ("Size", "Then", "Light"))


def test_a_box_without_a_step_or_for_nine_drops_is_no_box():
    for bad in ({"step_us": 0}, {"max_drops": 9}, {"max_drops": 0}, {"most_us": 999}):
        ((path, _, _),) = out_of_limits(replace(Box(), **bad))
        assert path in bad
