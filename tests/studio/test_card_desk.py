"""A card is read, slid and taken in beside all else; cancelled, pulled, and closed in the midst of it."""

import shutil
import threading
from datetime import timedelta

import numpy as np
import pytest

from ondine.core.log.camera_clock import Clock
from ondine.studio import card_desk
from ondine.studio.events import ShotChanged, Trouble
from ondine.studio.log_events import CardMatched, CardProgress, CardTaken
from tests.cards import card

AHEAD = timedelta(hours=3, seconds=8)


@pytest.fixture
def fired(table, clock):
    """Twelve shots with gaps of their own."""
    times = []
    for gap in np.random.default_rng(3).uniform(20, 80, 12):
        clock.now += timedelta(seconds=float(gap))
        table.fire()
        table.settle()
    shots = table.studio.writer.logbook.shots.newest(99)[::-1]
    times = [shot.at for shot in shots]
    return times


def test_a_card_is_matched_and_taken_in_only_when_it_is_said(table, fired, tmp_path):
    card(tmp_path / "card", fired, AHEAD)
    table.studio.card.read(tmp_path / "card")
    (event,) = table.heard(CardMatched)
    assert event.folder == tmp_path / "card" and len(event.found.match.pairs) == 12
    assert table.heard(CardProgress)[-1].done == 12
    assert all(shot.picture is None for shot in table.studio.writer.logbook.shots.newest(99))
    table.studio.card.take_in(doubtful=True)
    (taken,) = table.heard(CardTaken)
    assert taken.taken + taken.questions == 12 and not taken.refused and not taken.cancelled
    assert len([e for e in table.events if isinstance(e, ShotChanged) and e.shot.picture is not None]) == 12


def test_a_clock_slid_by_hand_is_what_is_taken_in(table, fired, tmp_path):
    card(tmp_path / "card", fired, AHEAD)
    table.studio.card.read(tmp_path / "card")
    found = table.heard(CardMatched)[0].found
    table.studio.card.slide(Clock(found.match.clocks[0].offset_s + 40_000))
    slid = table.heard(CardMatched, 2)[1]
    assert slid.folder is None and len(slid.found.match.pairs) < 4
    table.studio.card.take_in(doubtful=True)
    (taken,) = table.heard(CardTaken)
    assert taken.taken + taken.questions == len(slid.found.match.pairs)


def test_what_is_cancelled_leaves_what_was_taken_in(table, fired, tmp_path, monkeypatch):
    card(tmp_path / "card", fired, AHEAD)
    table.studio.card.read(tmp_path / "card")
    table.heard(CardMatched)
    gate, reached = threading.Event(), threading.Event()
    take_in = card_desk.take_in

    def held(kind, found, give, progress, is_cancelled, doubtful):
        def once(so_far):
            progress(so_far)
            if so_far.done == 5:
                reached.set()
                gate.wait(5)

        return take_in(kind, found, give, once, is_cancelled, doubtful)

    monkeypatch.setattr(card_desk, "take_in", held)
    table.studio.card.take_in(doubtful=True)
    assert reached.wait(5)
    table.studio.card.cancel()
    gate.set()
    (taken,) = table.heard(CardTaken)
    assert taken.cancelled and taken.taken + taken.questions == 5
    assert sum(shot.picture is not None for shot in table.studio.writer.logbook.shots.newest(99)) == 5


def test_a_card_that_is_not_there_is_said(table, tmp_path):
    table.studio.card.read(tmp_path / "none")
    (trouble,) = table.heard(Trouble)
    assert "cannot be read" in trouble.message and table.heard(CardProgress)[-1].what == ""


def test_pictures_that_went_before_they_were_taken_in_are_named(table, fired, tmp_path):
    card(tmp_path / "card", fired, AHEAD)
    table.studio.card.read(tmp_path / "card")
    table.heard(CardMatched)
    shutil.rmtree(tmp_path / "card")
    table.studio.card.take_in(doubtful=True)
    (taken,) = table.heard(CardTaken)
    assert taken.taken == 0 and len(taken.refused) == 12 and "not there any more" in taken.refused[0]


def test_closing_in_the_midst_ends_it(table, fired, tmp_path):
    card(tmp_path / "card", fired, AHEAD)
    table.studio.card.read(tmp_path / "card")
    table.studio.card.close()
    table.studio.card.read(tmp_path / "card")
    assert not [thread for thread in threading.enumerate() if thread.name.startswith("card_")]
