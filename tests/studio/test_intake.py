"""Pictures find their shots: slow ones, late ones, those that came while Ondine was closed; and what is odd is said."""

import os
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from ondine.core.forecast.plan import Plan
from ondine.core.setup import Camera, Setup
from ondine.logbook.errors import LogbookError
from ondine.logbook.outcomes import Outcome
from ondine.logbook.pairing import Pairing
from ondine.logbook.records import ShotState, SittingFacts
from ondine.logbook.store import Logbook
from ondine.studio import watch
from ondine.studio.events import PictureArrived, ShotChanged, Trouble
from ondine.studio.intake import Waiting
from tests.conftest import PAIR
from tests.frames import real_jpeg


@pytest.fixture
def incoming(tmp_path: Path) -> Path:
    folder = tmp_path / "incoming"
    folder.mkdir()
    return folder


def bytes_of(folder: Path, shade: int, taken_at: datetime | None = None) -> bytes:
    """A camera's file, made beside the folder that is watched."""
    path = folder.parent / "made.jpg"
    if taken_at is None:
        Image.new("RGB", (60, 40), (shade, 20, 30)).save(path)
    else:
        real_jpeg(path, np.full((40, 60, 3), shade, np.uint8), Camera(), taken_at)
    return path.read_bytes()


def pictures(table) -> dict[int, str]:
    shots = table.studio.writer.logbook.shots.newest(1000)
    return {s.id: s.picture.name for s in shots if s.picture is not None}


def test_slow_files_of_a_camera_whose_clock_is_off_go_to_their_own_shots(table, incoming):
    """Each file takes longer to be written than the next shot takes to be fired."""
    table.watch(incoming)
    whole = {n: bytes_of(incoming, 20 * n, table.controller.clock() + timedelta(seconds=-7.3 * n)) for n in range(1, 7)}
    for number in range(1, 7):
        table.fire()
        table.settle()
        for earlier in range(max(1, number - 2), number):
            (incoming / f"{earlier}.jpg").write_bytes(whole[earlier][: 200 + 40 * number])
        (incoming / f"{number}.jpg").write_bytes(whole[number][:150])
        time.sleep(0.6)
    for number in range(1, 7):
        (incoming / f"{number}.jpg").write_bytes(whole[number])
    table.heard(PictureArrived, 6, within_s=15)
    assert pictures(table) == {n: f"{n}.jpg" for n in range(1, 7)}


def test_a_picture_that_comes_hours_later_finds_its_shot_by_its_clock(table, incoming):
    table.watch(incoming)
    table.fire()
    table.settle()
    fired_at = table.newest().at
    table.controller.clock.now += timedelta(hours=2)
    (incoming / "late.jpg").write_bytes(bytes_of(incoming, 40, fired_at + timedelta(seconds=1)))
    table.heard(PictureArrived)
    assert pictures(table) == {1: "late.jpg"} and table.newest().picture_sure


def test_a_clock_set_back_by_an_hour_pairs_what_arrives(table, incoming):
    table.watch(incoming)
    table.fire()
    table.settle()
    table.controller.clock.now -= timedelta(hours=1)
    (incoming / "a.jpg").write_bytes(bytes_of(incoming, 40))
    table.heard(PictureArrived)
    table.fire()
    table.settle()
    (incoming / "b.jpg").write_bytes(bytes_of(incoming, 60))
    table.heard(PictureArrived, 2)
    assert pictures(table) == {1: "a.jpg", 2: "b.jpg"}


def test_pictures_that_came_while_ondine_was_closed_are_paired_at_the_start(table, incoming):
    table.fire()
    table.settle()
    fired_at = table.newest().at
    table.studio.close()
    (incoming / "there.jpg").write_bytes(bytes_of(incoming, 40, fired_at + timedelta(seconds=1)))
    (incoming / "other.jpg").write_bytes(bytes_of(incoming, 60, fired_at - timedelta(days=3)))
    (incoming / "broken.jpg").write_bytes(b"\xff\xd8\xff\xe0")
    os.utime(incoming / "other.jpg", (0, 0))
    table.studio = table.open()
    table.watch(incoming)
    table.heard(PictureArrived)
    assert pictures(table) == {1: "there.jpg"}
    # What lay there of old is no shot's, and nobody asks about it.
    assert not [e for e in table.events if isinstance(e, Trouble)]


def test_without_a_clock_the_time_of_writing_pairs_and_it_is_asked(table, incoming):
    table.fire()
    table.settle()
    fired_at = table.newest().at
    table.studio.close()
    (incoming / "there.jpg").write_bytes(bytes_of(incoming, 40))
    os.utime(incoming / "there.jpg", (fired_at.timestamp() + 4, fired_at.timestamp() + 4))
    table.studio = table.open()
    table.watch(incoming)
    table.heard(PictureArrived)
    assert pictures(table) == {1: "there.jpg"} and not table.newest().picture_sure


def test_a_pairing_that_is_not_sure_is_answered(table, incoming):
    table.fire()
    table.settle()
    table.fire()
    table.settle()
    table.watch(incoming)
    (incoming / "which.jpg").write_bytes(bytes_of(incoming, 40))
    table.heard(PictureArrived)
    assert pictures(table) == {2: "which.jpg"} and not table.newest().picture_sure
    table.studio.log.answer_picture(2, False)
    table.settle()
    assert pictures(table) == {} and table.heard(ShotChanged)[-1].shot.id == 2
    (incoming / "next.jpg").write_bytes(bytes_of(incoming, 60))
    table.heard(PictureArrived, 2)
    table.studio.log.answer_picture(1, True)
    table.settle()
    assert pictures(table) == {1: "next.jpg"} and table.studio.writer.logbook.shots.get(1).picture_sure


def test_a_copy_of_a_known_picture_takes_no_other_shots_place(table, incoming):
    table.watch(incoming)
    table.fire()
    table.settle()
    content = bytes_of(incoming, 40)
    (incoming / "a.jpg").write_bytes(content)
    table.heard(PictureArrived)
    table.fire()
    table.settle()
    (incoming / "copy of a.jpg").write_bytes(content)
    time.sleep(1.0)
    (incoming / "b.jpg").write_bytes(bytes_of(incoming, 60))
    table.heard(PictureArrived, 2)
    assert pictures(table) == {1: "copy of a.jpg", 2: "b.jpg"} and table.newest().picture_sure


def test_a_logbook_locked_for_a_while_loses_no_picture(table, incoming, monkeypatch):
    monkeypatch.setattr(watch, "AGAIN_S", 0.1)
    table.watch(incoming)
    table.fire()
    table.settle()
    real, until = table.studio.writer.logbook.pictures.add, time.monotonic() + 5

    def locked(*words: object) -> object:
        if time.monotonic() < until:
            raise LogbookError("locked by another program")
        return real(*words)

    monkeypatch.setattr(table.studio.writer.logbook.pictures, "add", locked)
    (incoming / "a.jpg").write_bytes(bytes_of(incoming, 40))
    table.heard(PictureArrived, within_s=15)
    # Said once, not at each try.
    assert [e.message for e in table.heard(Trouble)] == [
        "The picture a.jpg is not logged yet. locked by another program Ondine tries again."
    ]


def test_odd_files_are_told_and_the_next_good_one_is_taken(table, incoming):
    table.watch(incoming)
    odd = [b"/\xff\xfe.jpg", b"/a\xed\xb2\x80.jpg"]
    for name in odd:
        Path(os.fsdecode(os.fsencode(incoming) + name)).write_bytes(bytes_of(incoming, 10))
    (incoming / "loop.jpg").symlink_to(incoming / "loop.jpg")
    (incoming / "zero.jpg").symlink_to("/dev/zero")
    table.fire()
    table.settle()
    (incoming / "good.jpg").write_bytes(bytes_of(incoming, 40, datetime(9999, 12, 31, 23, 0, tzinfo=UTC)))
    table.heard(PictureArrived, within_s=10)
    assert pictures(table) == {1: "good.jpg"}
    assert len(table.heard(Trouble, len(odd), within_s=10)) == len(odd)


def test_changing_the_folder_returns_at_once(table, incoming, tmp_path):
    table.watch(incoming)
    table.studio.intake._watch.stop = lambda: time.sleep(1.0)
    began = time.monotonic()
    table.studio.intake.watch(tmp_path)
    assert time.monotonic() - began < 0.5


def test_a_folder_that_cannot_be_made_is_said(table, tmp_path):
    (tmp_path / "file").write_text("")
    table.studio.intake.watch(tmp_path / "file" / "incoming", make=True)
    assert "cannot be made" in table.heard(Trouble)[0].message


def test_shots_wait_in_the_order_that_they_fired_whatever_the_computers_clock_says():
    now = [100.0]
    waiting = Waiting(lambda: now[0])
    waiting.fires(1)
    now[0] += 2
    assert waiting.reserve() == Pairing(1)
    waiting.fires(2)
    now[0] += 1
    assert waiting.reserve() == Pairing(2)
    # Nobody is left to wait.
    assert waiting.reserve() == Pairing(None)
    waiting.taken(Pairing(1), 1)
    # The second was a copy of something: its shot waits again.
    waiting.taken(Pairing(2), None)
    assert waiting.reserve() == Pairing(2)
    now[0] += 100
    waiting.taken(Pairing(2), None)
    assert waiting.reserve() == Pairing(None)


def test_a_failed_shot_waits_for_no_picture_at_the_next_start(tmp_path):
    book = Logbook.open(tmp_path / "log.ondine")
    at = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
    sitting = book.sittings.begin(SittingFacts("s"), at)
    first, second = (book.shots.plan(sitting, Plan(PAIR, Setup()), at) for _ in range(2))
    book.shots.finish(Outcome(first, at, ShotState.FAILED))
    book.shots.finish(Outcome(second, at, ShotState.FIRED, at))
    assert [c.shot_id for c in book.pictures.shots_without()] == [second]
    book.close()
