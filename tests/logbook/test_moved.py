"""Pictures that were moved or renamed are found by their content, and nothing is changed on the way."""

import hashlib
import shutil
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.demo.scenario import SEASON
from ondine.logbook.card import CardGoneError
from ondine.logbook.intake import read_picture
from ondine.logbook.moved import find_moved
from ondine.logbook.records import PastShot
from tests.calibrated import IN_HAND
from tests.cards import frame
from tests.rawfiles import dng

AT = datetime(2026, 5, 9, 19, 0, tzinfo=UTC)


@pytest.fixture
def pictured(logbook, tmp_path):
    folder = tmp_path / "2026"
    folder.mkdir()
    past = []
    for n in range(4):
        path = Path(shutil.copy(SEASON / f"{60 + n:03d}.jpg", folder))
        past.append(PastShot("Dusk", AT + timedelta(minutes=n), IN_HAND, picture=read_picture(path)))
    logbook.shots.add_history(past)
    return logbook, folder


def contents(folder: Path) -> dict[str, str]:
    return {
        str(p.relative_to(folder)): hashlib.sha256(p.read_bytes()).hexdigest() for p in folder.rglob("*") if p.is_file()
    }


def test_moved_and_renamed_pictures_are_found_by_content_alone(pictured, tmp_path):
    logbook, folder = pictured
    archive = tmp_path / "archive" / "splashes"
    archive.mkdir(parents=True)
    (folder / "060.jpg").rename(archive / "060.jpg")
    (folder / "061.jpg").rename(archive / "best of all.JPG")
    (folder / "062.jpg").unlink()
    # One of the same name and another content is another picture.
    shutil.copy(SEASON / "090.jpg", archive / "062.jpg")
    (archive / "odd.jpg").write_bytes(b"")
    before = contents(tmp_path / "archive")
    seen = []
    done = find_moved(logbook, tmp_path / "archive", lambda d, of: seen.append((d, of)))
    assert sorted(path.name for path in done.found.values()) == ["060.jpg", "best of all.JPG"] and done.missing == 1
    assert done.words == "2 moved pictures found, 1 still missing."
    logbook.pictures.moved(done.found)
    assert [logbook.shots.get(n).picture for n in (1, 2, 3, 4)] == [
        archive / "060.jpg", archive / "best of all.JPG", folder / "062.jpg", folder / "063.jpg",
    ]  # fmt: skip
    assert contents(tmp_path / "archive") == before and seen[-1][0] == seen[-1][1] == 4
    # What still has its name was looked at first.
    assert find_moved(logbook, tmp_path / "archive").found == {}


def test_where_nothing_is_missing_nothing_is_read(pictured, tmp_path):
    logbook, folder = pictured
    seen = []
    done = find_moved(logbook, folder, lambda d, of: seen.append(d))
    assert (done.found, done.missing, seen) == ({}, 0, [])


def test_it_is_cancelled_and_a_folder_that_is_none_is_a_sentence(pictured, tmp_path):
    logbook, folder = pictured
    folder.rename(tmp_path / "moved")
    assert find_moved(logbook, tmp_path / "moved", is_cancelled=lambda: True).missing == 4
    with pytest.raises(CardGoneError, match="cannot be read"):
        find_moved(logbook, tmp_path / "none")
    assert len(find_moved(logbook, tmp_path / "moved").found) == 4


def test_a_raw_file_beside_its_picture_is_found_too(logbook, tmp_path):

    shown = datetime(2026, 5, 9, 19, 0)
    (tmp_path / "a").mkdir()
    raw, jpeg = dng(tmp_path / "a" / "1.dng", taken_at=shown), frame(tmp_path / "a" / "1.jpg", shown)
    logbook.shots.add_history([PastShot("Dusk", AT, IN_HAND)])
    for path in (jpeg, raw):
        logbook.pictures.give(read_picture(path, UTC), 1, True, AT)
    (tmp_path / "a").rename(tmp_path / "b")
    done = find_moved(logbook, tmp_path / "b")
    logbook.pictures.moved(done.found)
    assert logbook.pictures.files_of(1) == [tmp_path / "b" / "1.jpg", tmp_path / "b" / "1.dng"]
