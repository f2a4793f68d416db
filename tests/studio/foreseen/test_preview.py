"""The tracer beside the window: the newest wish wins, the first look always comes, nothing outlives the window."""

import os
import threading
import time
from dataclasses import replace
from multiprocessing import Pipe, active_children

import pytest

from ondine.core.forecast.plan import Plan
from ondine.core.setup.fields import put
from ondine.core.timing.sequence import Sequence
from ondine.demo.scenario import ONE, TIDAL_MILL
from ondine.studio.events import ForeseenLost, ForeseenSeen, Notice, Trouble
from ondine.studio.foreseen import preview as module
from ondine.studio.foreseen import tracing
from ondine.studio.foreseen.orders import Order, Wanted
from ondine.studio.foreseen.preview import MOST_DEATHS, Preview, in_own_process
from ondine.studio.foreseen.tracing import serve
from ondine.studio.worker import Guard
from tests.calibrated import IN_HAND, TAUGHT
from tests.tracers import in_thread, that_dies

SMALL = Wanted(IN_HAND, (48, 32))
FULL = put(put(TIDAL_MILL, "mix.glycerine_mass_fraction", 0.999), "mix.milk_mass_fraction", 0.999)
IMPOSSIBLE = Wanted(replace(IN_HAND, setup=FULL), (48, 32))


class Ears:
    """Hears what is told, and waits for it."""

    def __init__(self) -> None:
        self.heard: list[object] = []
        self.guard = Guard(self.heard.append)

    def of(self, kind: type) -> list:
        return [event for event in self.heard if isinstance(event, kind)]

    def wait(self, there, within_s: float = 60.0) -> None:
        end = time.monotonic() + within_s
        while not there():
            assert time.monotonic() < end, self.heard
            time.sleep(0.005)


@pytest.fixture
def ears():
    return Ears()


@pytest.fixture
def preview(ears):
    made = Preview(in_thread, ears.heard.append, ears.guard)
    yield made
    made.close()
    assert not any(thread.name == "preview" for thread in threading.enumerate())


def finished(ears, number):
    return any(seen.number == number and seen.finished for seen in ears.of(ForeseenSeen))


def test_what_is_wanted_is_seen_from_coarse_to_finished(preview, ears):
    number = preview.want(SMALL)
    ears.wait(lambda: finished(ears, number))
    seen = ears.of(ForeseenSeen)
    assert [look.level for look in seen] == sorted(look.level for look in seen)
    assert (seen[0].width, seen[0].height) == (12, 8) and len(seen[0].pixels) == 12 * 8 * 3
    assert (seen[-1].width, seen[-1].height) == (48, 32)


def test_of_many_wishes_the_last_is_finished_and_few_of_those_before(preview, ears):
    big = Wanted(IN_HAND, (480, 320))
    first = preview.want(big)
    ears.wait(lambda: ears.of(ForeseenSeen))
    last = [preview.want(big) for _ in range(20)][-1]
    ears.wait(lambda: finished(ears, last))
    done = [seen.number for seen in ears.of(ForeseenSeen) if seen.finished]
    assert done == [last]
    assert len({seen.number for seen in ears.of(ForeseenSeen)} - {first, last}) <= 3


def test_the_first_look_of_what_was_begun_comes_before_the_newest_is_begun():
    """A hand that does not rest sees pictures all the same: an order that waits does not take the first look away."""
    here, there = Pipe()
    for number in range(1, 9):
        here.send(Order(number, SMALL))
    thread = threading.Thread(target=serve, args=(there,))
    thread.start()
    said = [here.recv()]
    while not said[-1].finished:
        said.append(here.recv())
    here.close()
    thread.join(30)
    assert not thread.is_alive()
    assert (said[0].number, said[0].level) == (1, 0)
    assert {look.number for look in said[1:]} == {8}


def test_what_cannot_be_foreseen_is_lost_without_trouble(preview, ears):
    number = preview.want(IMPOSSIBLE)
    ears.wait(lambda: ears.of(ForeseenLost))
    assert ears.of(ForeseenLost) == [ForeseenLost(number)] and not ears.of(Trouble)
    again = preview.want(SMALL)
    ears.wait(lambda: finished(ears, again))


def test_a_fault_of_the_tracer_is_told_with_details_and_the_next_picture_comes(preview, ears, monkeypatch):
    def fails(_):
        raise ZeroDivisionError("nobody expected this")
        yield

    true = tracing.foresee
    monkeypatch.setattr(tracing, "foresee", fails)
    preview.want(SMALL)
    ears.wait(lambda: ears.of(Trouble))
    assert "picture of the splash" in ears.of(Trouble)[0].message
    assert "nobody expected this" in ears.of(Trouble)[0].details
    monkeypatch.setattr(tracing, "foresee", true)
    again = preview.want(SMALL)
    ears.wait(lambda: finished(ears, again))


def test_a_tracer_that_dies_is_started_again_but_not_for_ever(ears):
    starts = []

    def start():
        starts.append(1)
        return that_dies()

    made = Preview(start, ears.heard.append, ears.guard)
    for number in range(1, MOST_DEATHS + 3):
        made.want(SMALL)
        ears.wait(lambda number=number: len(ears.of(ForeseenLost)) >= min(number, MOST_DEATHS))
    assert len(starts) == MOST_DEATHS and not made.works
    assert len(ears.of(Trouble)) == 1
    made.close()


def test_what_nobody_expected_of_its_thread_is_told_and_ends_in_no_wait(ears):
    def start():
        raise RuntimeError("no tracer can be made")

    made = Preview(start, ears.heard.append, ears.guard)
    made.want(SMALL)
    ears.wait(lambda: ears.of(Trouble) and ears.of(ForeseenLost))
    assert "no tracer can be made" in ears.of(Trouble)[0].details and not made.works
    # Far more than the bell holds: a wish that nobody hears must not hold up the window.
    for _ in range(70_000):
        made.want(SMALL)
    made.close()


def test_a_slow_start_is_told_once(ears, monkeypatch):
    monkeypatch.setattr(module, "PATIENCE_S", 0.02)
    here, there = Pipe()
    made = Preview(lambda: here, ears.heard.append, ears.guard)
    made.want(SMALL)
    ears.wait(lambda: ears.of(Notice))
    there.send(ForeseenLost(1))
    ears.wait(lambda: ears.of(ForeseenLost))
    assert [notice.message for notice in ears.of(Notice)] == [module.GETS_READY]
    made.close()


def test_without_a_tracer_nothing_is_wanted_and_nothing_waits(ears):
    made = Preview(None, ears.heard.append, ears.guard)
    assert not made.works and made.want(SMALL) == 1
    made.close()
    made.close()
    assert ears.heard == []


def test_the_process_ends_with_its_line_at_the_worst_moment(ears):
    made = Preview(in_own_process, ears.heard.append, ears.guard)
    made.want(Wanted(Plan(Sequence.with_one_flash(ONE, 268_000), TIDAL_MILL, TAUGHT), (1200, 800)))
    ears.wait(lambda: ears.of(ForeseenSeen), 240)
    (tracer,) = [child for child in active_children() if child.name == "splash-tracer"]
    made.close()
    tracer.join(20)
    assert not tracer.is_alive()


def test_a_killed_process_is_noticed_and_replaced(ears):
    made = Preview(in_own_process, ears.heard.append, ears.guard)
    first = made.want(SMALL)
    ears.wait(lambda: finished(ears, first), 240)
    (tracer,) = [child for child in active_children() if child.name == "splash-tracer"]
    os.kill(tracer.pid, 9)
    ears.wait(lambda: ears.of(ForeseenLost))
    again = made.want(SMALL)
    ears.wait(lambda: finished(ears, again), 240)
    made.close()
