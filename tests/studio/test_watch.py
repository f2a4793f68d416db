"""The watched folder: looked at anew only when it changed, and nothing that arrives is missed."""

import os
import time
from pathlib import Path

from ondine.studio import watch
from ondine.studio.watch import FolderWatch


class Watched:
    """A folder watch that is asked by hand."""

    def __init__(self, folder: Path, monkeypatch) -> None:
        self.taken: list[str] = []
        self.listings = 0
        self.watch = FolderWatch(folder, lambda p: self.taken.append(p.name), lambda _: None, lambda *_: None)
        real = self.watch._listed

        def counted() -> list[str] | None:
            self.listings += 1
            return real()

        monkeypatch.setattr(self.watch, "_listed", counted)

    def look(self, times: int = 1) -> None:
        for _ in range(times):
            for name in self.watch._names_to_look_at() or ():
                found = self.watch._stat(name)
                if found is not None:
                    self.watch._consider(name, *found)


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
