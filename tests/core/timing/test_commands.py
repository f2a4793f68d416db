from dataclasses import FrozenInstanceError, replace

import pytest

from ondine.core.setup import FlashFiredBy
from ondine.core.timing.commands import Commands
from ondine.core.timing.latency import commands_for
from ondine.demo.scenario import START, TIDAL_MILL


def test_the_valve_is_told_the_sequence_as_it_is():
    for school in FlashFiredBy:
        setup = replace(TIDAL_MILL, triggers=replace(TIDAL_MILL.triggers, flash_fired_by=school))
        commands = commands_for(setup, START)
        assert commands.sequence == START
        # In the camera's school the controller leaves the flash alone.
        assert (commands.flashes_us is None) == (school is FlashFiredBy.CAMERA)


def test_a_flash_lights_unless_it_is_told_to_stay_dark_and_commands_do_not_change():
    commands = Commands(START, 356_000, None)
    assert not commands.dark and replace(commands, dark=True) != commands
    with pytest.raises(FrozenInstanceError):
        commands.flashes_us = 1  # type: ignore[misc]
