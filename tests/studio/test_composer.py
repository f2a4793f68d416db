"""What is in hand: locks that follow, steps that have names, and what is kept of it."""

import json
from dataclasses import replace

import pytest

from ondine.core.belief.learned import Learned
from ondine.core.forecast.events import EventKind
from ondine.core.setup.fields import put
from ondine.core.timing.arrange import removed
from ondine.core.timing.items import FIRST_FLASH, SHUTTER, drop
from ondine.core.timing.locks import Follows
from ondine.core.timing.sequence import FlashPulse
from tests.conftest import PAIR


def after_meeting_us(composer) -> float:
    found = composer.foresee(None)
    meeting = found.event(EventKind.MEETING)
    assert meeting is not None
    return composer.sequence.first_flash_us - meeting.time_s.mean * 1e6


def test_what_is_locked_follows_the_table_as_well_and_is_undone_with_it(table):
    composer = table.studio.composer
    assert composer.lock(FIRST_FLASH, Follows.MEETING)
    before = after_meeting_us(composer)
    composer.use_setup(put(composer.setup, "valves.0.nozzle_height_m", 0.35))
    assert composer.sequence != PAIR and after_meeting_us(composer) == pytest.approx(before, abs=1)
    assert composer.undoes == "nozzle over the water"
    assert composer.undo() == "nozzle over the water" and composer.sequence == PAIR
    assert composer.undo() == "lock to the predicted meeting" and composer.plan.locks == ()


def test_a_table_that_no_drop_falls_at_lets_what_is_locked_wait(table):
    composer = table.studio.composer
    composer.lock(FIRST_FLASH, Follows.MEETING)
    shut = replace(composer.setup, mix=replace(composer.setup.mix, glycerine_mass_fraction=1.0, temperature_c=-99.0))
    composer.use_setup(shut)
    assert composer.setup == shut and composer.sequence == PAIR and composer.plan.locks
    composer.compose(PAIR.with_start(1, PAIR.drops[1].start_us + 2_000))
    assert composer.sequence.flashes == PAIR.flashes and composer.plan.locks[0].offset_us != 0
    # Where it can be foreseen again, what waited follows.
    composer.use_setup(replace(shut, mix=replace(shut.mix, glycerine_mass_fraction=0.1, temperature_c=20.0)))
    assert composer.sequence.flashes != PAIR.flashes


def test_a_gesture_is_one_step_with_the_name_of_its_beginning(table):
    composer = table.studio.composer
    for at_us in (96_000, 97_000, 98_000):
        composer.compose(composer.sequence.with_start(1, at_us), "drag")
    composer.end_gesture()
    composer.compose(composer.sequence.with_open(0, 25_000), "keys")
    assert composer.undo() == "open drop 1 longer" and composer.undo() == "move drop 2"
    assert composer.sequence == PAIR and composer.redo() == "move drop 2" and composer.redoes == "open drop 1 longer"


def test_locks_are_there_again_after_a_restart(table):
    composer = table.studio.composer
    composer.lock(drop(1), Follows.CLOSING)
    composer.lock(SHUTTER, Follows.FIRST_FLASH)
    locks = composer.plan.locks
    table.studio.close()
    table.studio = table.open()
    composer = table.studio.composer
    assert composer.plan.locks == locks and len(locks) == 2
    composer.compose(composer.sequence.with_open(0, composer.sequence.drops[0].open_us + 3_000))
    assert composer.sequence.drops[1].start_us == PAIR.drops[1].start_us + 3_000


@pytest.mark.parametrize("text", ["{torn", '[{"item": {"kind": "moon"}, "follows": "the tide", "offset_us": 0}]'])
def test_locks_that_cannot_be_read_are_set_aside_and_the_rest_stays(table, text):
    table.studio.composer.compose(PAIR.with_flash(0, 351_000))
    table.studio.close()
    table.studio = table.open()
    table.studio.log.keep("locks", text)
    table.settle()
    table.studio.close()
    table.studio = table.open()
    assert table.studio.composer.plan.locks == () and table.studio.composer.sequence.first_flash_us == 351_000
    assert "locks" in table.studio.kept.set_aside


def test_locks_of_drops_that_are_not_there_are_let_go(table):
    many = [{"item": {"kind": "drop", "index": 7}, "follows": Follows.CLOSING.value, "offset_us": 5}]
    table.studio.log.keep("locks", json.dumps(many))
    table.settle()
    table.studio.close()
    table.studio = table.open()
    assert table.studio.composer.plan.locks == () and "locks" not in table.studio.kept.set_aside


def test_adding_and_taking_out_moves_nothing_that_is_locked(table):
    composer = table.studio.composer
    composer.lock(drop(1), Follows.CLOSING)
    three = PAIR.with_drop_added()
    composer.compose(three)
    assert composer.sequence == three and composer.undoes == "add drop 3"
    composer.compose(removed(three, frozenset({drop(0)}))[0], gone=frozenset({drop(0)}))
    # Its drop is the first now: there is nothing before it to follow.
    assert composer.sequence == removed(three, frozenset({drop(0)}))[0] and composer.plan.locks == ()
    composer.compose(replace(composer.sequence, flashes=(*PAIR.flashes, FlashPulse(400_000, 1))))
    assert composer.undoes == "add flash 2"


def test_what_shots_taught_last_outlives_undo_and_is_no_step_itself(table):
    composer = table.studio.composer
    first, later = Learned(("lag_s",), "AHg="), Learned(("lag_s",), "AHk=")
    composer.learn(first)
    assert composer.belief.learned == first and composer.undoes is None
    composer.compose(PAIR.with_flash(0, 350_000))
    composer.learn(later)
    assert composer.undo() is not None
    assert composer.sequence == PAIR and composer.belief.learned == later
    composer.redo()
    assert composer.belief.learned == later
    told = len(table.events)
    composer.learn(later)
    assert len(table.events) == told
