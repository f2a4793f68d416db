"""The watched folder: looked at anew only when it changed, and nothing that arrives is missed."""

import os
import time
from pathlib import Path

from ondine.logbook.errors import LogbookError
from ondine.logbook.pairing import Pairing
from ondine.logbook.picture_error import PictureError
from ondine.studio import watch
from ondine.studio.watch import FolderWatch


class Watched:
    """A folder watch that is asked by hand, and what it finds."""

    def __init__(self, folder: Path, monkeypatch) -> None:
        self.taken: list[str] = []
        self.reserved: list[Pairing] = []
        self.refusals: list[str] = []
        self.raises: dict[str, Exception] = {}
        self.caught: list[Exception] = []
        self.sights = 0
        self.droppings: list[Pairing] = []
        self.listings = 0
        self.watch = FolderWatch(folder, self)
        real = self.watch._listed

        def counted() -> list[str] | None:
            self.listings += 1
            return real()

        monkeypatch.setattr(self.watch, "_listed", counted)

    def look(self, times: int = 1) -> None:
        for _ in range(times):
            self.watch.look()

    def guarded(self, job, *arguments) -> None:
        try:
            job(*arguments)
        except Exception as error:  # noqa: BLE001
            self.caught.append(error)

    def catch_up(self, files) -> None:
        pass

    def sighted(self) -> Pairing:
        self.sights += 1
        return Pairing(self.sights)

    def take(self, path: Path, reserved: Pairing) -> None:
        if path.name in self.raises:
            raise self.raises[path.name]
        self.taken.append(path.name)
        self.reserved.append(reserved)

    def refused(self, error: PictureError) -> None:
        self.refusals.append(str(error))

    def dropped(self, reserved: Pairing) -> None:
        self.droppings.append(reserved)

    def presence(self, folder: Path, present: bool) -> None:
        pass


def test_a_folder_at_rest_is_not_listed_again(tmp_path, monkeypatch):
    for number in range(300):
        (tmp_path / f"{number:03d}.jpg").write_bytes(b"x")
    watched = Watched(tmp_path, monkeypatch)
    watched.look(watch.RESTLESS_LOOKS)
    listed = watched.listings
    watched.look(50)
    assert watched.listings == listed and watched.taken == []


def test_what_arrives_later_is_listed_once_more_and_taken_when_it_has_stopped_growing(tmp_path, monkeypatch):
    watched = Watched(tmp_path, monkeypatch)
    watched.look(watch.RESTLESS_LOOKS + 5)
    (tmp_path / "new.jpg").write_bytes(b"half")
    watched.look()
    assert watched.taken == []
    (tmp_path / "new.jpg").write_bytes(b"half and more")
    watched.look()
    assert watched.taken == []
    watched.look()
    assert watched.taken == ["new.jpg"]
    watched.look(5)
    assert watched.taken == ["new.jpg"]


def test_a_camera_that_writes_over_the_same_name_is_seen_though_no_folder_tells(tmp_path, monkeypatch):
    (tmp_path / "capture.jpg").write_bytes(b"one")
    watched = Watched(tmp_path, monkeypatch)
    watched.look(watch.RESTLESS_LOOKS + 5)
    folder = tmp_path.stat()
    (tmp_path / "capture.jpg").write_bytes(b"another")
    os.utime(tmp_path, ns=(folder.st_atime_ns, folder.st_mtime_ns))
    watched.look(2)
    assert watched.taken == ["capture.jpg"]


def test_a_file_that_was_taken_away_may_come_again(tmp_path, monkeypatch):
    (tmp_path / "a.jpg").write_bytes(b"one")
    watched = Watched(tmp_path, monkeypatch)
    (tmp_path / "a.jpg").unlink()
    watched.look()
    time.sleep(0.01)
    (tmp_path / "a.jpg").write_bytes(b"one")
    watched.look(3)
    assert watched.taken == ["a.jpg"]


def test_files_that_are_gone_are_forgotten(tmp_path, monkeypatch):
    # A card that is emptied again and again must not fill the memory.
    for number in range(40):
        (tmp_path / f"{number}.jpg").write_bytes(b"x")
    watched = Watched(tmp_path, monkeypatch)
    assert len(watched.watch._seen) == 40
    for path in tmp_path.iterdir():
        path.unlink()
    watched.look()
    assert not watched.watch._seen


def test_a_file_keeps_the_shot_it_was_first_seen_after_however_long_it_grows(tmp_path, monkeypatch):
    watched = Watched(tmp_path, monkeypatch)
    for content in (b"a", b"ab", b"abc"):
        (tmp_path / "slow.jpg").write_bytes(content)
        watched.look()
    (tmp_path / "quick.jpg").write_bytes(b"whole")
    watched.look(3)
    assert dict(zip(watched.taken, watched.reserved, strict=True)) == {"slow.jpg": Pairing(1), "quick.jpg": Pairing(2)}
    # Written over: another picture, first seen now.
    (tmp_path / "slow.jpg").write_bytes(b"another one")
    watched.look(2)
    assert watched.reserved[-1] == Pairing(3)


def test_links_to_nowhere_loops_folders_and_pipes_blind_nobody(tmp_path, monkeypatch):
    watched = Watched(tmp_path, monkeypatch)
    (tmp_path / "dangling.jpg").symlink_to(tmp_path / "none")
    (tmp_path / "loop.jpg").symlink_to(tmp_path / "loop.jpg")
    (tmp_path / "folder.jpg").mkdir()
    os.mkfifo(tmp_path / "pipe.jpg")
    (tmp_path / "good.jpg").write_bytes(b"x")
    watched.look(3)
    assert watched.taken == ["good.jpg"] and watched.caught == []


def test_what_one_file_does_to_its_reader_is_told_once_and_hides_no_other(tmp_path, monkeypatch):
    watched = Watched(tmp_path, monkeypatch)
    watched.raises["bad.jpg"] = RuntimeError("what nobody expected")
    for name in ("bad.jpg", "good.jpg"):
        (tmp_path / name).write_bytes(b"x")
    watched.look(6)
    assert watched.taken == ["good.jpg"] and len(watched.caught) == 1


def test_a_picture_that_cannot_be_logged_now_is_tried_until_it_can(tmp_path, monkeypatch):
    monkeypatch.setattr(watch, "AGAIN_S", 0.02)
    watched = Watched(tmp_path, monkeypatch)
    watched.raises["a.jpg"] = LogbookError("locked")
    (tmp_path / "a.jpg").write_bytes(b"x")
    for _ in range(5):
        watched.look()
        time.sleep(0.03)
    assert watched.taken == [] and watched.refusals == [] and watched.caught == []
    del watched.raises["a.jpg"]
    watched.look()
    assert watched.taken == ["a.jpg"]


def test_a_folder_behind_a_closed_door_is_not_there(tmp_path, monkeypatch):
    # Root goes through every door: take it away in the question instead.
    def closed(*_: object) -> None:
        raise PermissionError(13, "Permission denied")

    monkeypatch.setattr(watch.os, "scandir", closed)
    assert not FolderWatch(tmp_path, Watched(tmp_path, monkeypatch)).is_present


def test_a_file_that_goes_or_is_refused_gives_its_shot_back(tmp_path, monkeypatch):
    monkeypatch.setattr(watch, "PATIENCE_S", 0.02)
    watched = Watched(tmp_path, monkeypatch)
    watched.raises["bad.jpg"] = PictureError("no picture")
    (tmp_path / "bad.jpg").write_bytes(b"x")
    (tmp_path / "gone.jpg").write_bytes(b"")
    watched.look()
    (tmp_path / "gone.jpg").unlink()
    time.sleep(0.03)
    watched.look(3)
    assert sorted(p.shot_id for p in watched.droppings) == [1, 2] and watched.refusals == ["no picture"]


def test_the_raw_file_and_the_jpeg_of_one_name_keep_one_shot(tmp_path, monkeypatch):
    desk = Watched(tmp_path, monkeypatch)
    for name in ("IMG_1.NEF", "IMG_1.JPG", "IMG_2.JPG", "IMG_2.NEF", "IMG_3.JPG", "IMG_3.PNG"):
        (tmp_path / name).write_bytes(b"x")
        desk.look()
    # Two of one name that are no raw file are two pictures.
    assert desk.sights == 4
    desk.look(2)
    kept = {name: pairing.shot_id for name, pairing in zip(desk.taken, desk.reserved, strict=True)}
    assert kept["IMG_1.NEF"] == 1 and kept["IMG_1.JPG"] is None and kept["IMG_2.JPG"] == 2 and kept["IMG_2.NEF"] is None
