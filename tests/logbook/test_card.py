"""Frames of a card and their times; times are held against ExifTool's reading."""

import os
import shutil
import subprocess
import sys
from datetime import UTC, datetime, timedelta

import pytest
from benchmarks.faults.rights import PLAIN_RIGHTS

from ondine.logbook.card import CardGoneError, read_card
from ondine.logbook.intake import read_taken
from tests.cards import frame
from tests.rawfiles import dng

SHOWN = datetime(2026, 5, 9, 20, 15, 7)
EXIFTOOL = shutil.which("exiftool")


def test_frames_stand_in_the_order_of_their_times_and_of_their_names(tmp_path):
    frame(tmp_path / "c.jpg", SHOWN, 1)
    frame(tmp_path / "100CAM" / "b.JPG", SHOWN - timedelta(seconds=5), 2)
    frame(tmp_path / "a.jpeg", SHOWN, 3)
    (tmp_path / "notes.txt").write_text("no picture")
    frame(tmp_path / ".hidden" / "d.jpg", SHOWN, 4)
    frame(tmp_path / "._a.jpg", SHOWN, 5)
    found = read_card(tmp_path)
    assert [f.path.name for f in found.frames] == ["b.JPG", "a.jpeg", "c.jpg"] and not found.refused
    assert found.frames[0].taken_at == datetime(2026, 5, 9, 20, 15, 2, tzinfo=UTC) and not found.fractions


def test_a_raw_file_and_its_jpeg_are_one_frame(tmp_path):
    frame(tmp_path / "IMG_1.JPG", SHOWN)
    dng(tmp_path / "IMG_1.DNG", taken_at=SHOWN)
    dng(tmp_path / "IMG_2.dng", taken_at=SHOWN + timedelta(seconds=9))
    both, alone = read_card(tmp_path).frames
    assert (both.path.name, both.beside.name) == ("IMG_1.JPG", "IMG_1.DNG") and len(both.files) == 2
    assert alone.path.name == "IMG_2.dng" and alone.taken_at == (SHOWN + timedelta(seconds=9)).replace(tzinfo=UTC)


@pytest.mark.parametrize(
    ("fraction", "zone"), [(None, None), ("5", None), ("123", "+02:00"), (None, "-03:30"), ("007", "+00:00")]
)
@pytest.mark.skipif(EXIFTOOL is None, reason="ExifTool is not installed")
def test_times_are_those_that_exiftool_reads(tmp_path, fraction, zone):
    path = frame(tmp_path / "a.jpg", SHOWN, fraction=fraction, zone=zone)
    ask = [EXIFTOOL, "-s3", "-SubSecDateTimeOriginal", "-DateTimeOriginal", str(path)]
    told = subprocess.run(ask, capture_output=True, text=True, check=True).stdout.split("\n")[0]
    text = told.replace(":", "-", 2)
    wanted = datetime.fromisoformat(text if zone else f"{text}+00:00")
    (found,) = read_card(tmp_path).frames
    assert found.taken_at == wanted and found.fractions == (fraction is not None and int(fraction) != 0)


@pytest.mark.skipif(EXIFTOOL is None, reason="ExifTool is not installed")
def test_the_time_of_a_raw_file_is_what_exiftool_reads(tmp_path):
    path = dng(tmp_path / "a.dng", taken_at=SHOWN)
    told = subprocess.run(
        [EXIFTOOL, "-s3", "-ModifyDate", str(path)], capture_output=True, text=True, check=True
    ).stdout
    assert (
        datetime.strptime(told.strip(), "%Y:%m:%d %H:%M:%S") == SHOWN == read_taken(path, UTC).at.replace(tzinfo=None)
    )


def test_what_is_of_no_use_is_named_and_the_rest_is_read(tmp_path):
    frame(tmp_path / "good.jpg", SHOWN)
    whole = frame(tmp_path / "cut.jpg", SHOWN, 7).read_bytes()
    (tmp_path / "cut.jpg").write_bytes(whole[:60])
    (tmp_path / "empty.jpg").touch()
    (tmp_path / "text.jpg").write_text("no picture")
    (tmp_path / "raw.nef").write_bytes(b"II*\0 no raw file")
    os.mkfifo(tmp_path / "pipe.jpg")
    (tmp_path / "folder.jpg").mkdir()
    (tmp_path / "loop.jpg").symlink_to("loop.jpg")
    from PIL import Image

    Image.new("RGB", (8, 8)).save(tmp_path / "timeless.png")
    (tmp_path / "new\nline.jpg").write_bytes(whole)
    broken = os.fsencode(tmp_path) + b"/\xff\xfe.jpg"
    with open(broken, "wb") as file:
        file.write(whole)
    found = read_card(tmp_path)
    assert {f.path.name for f in found.frames} == {"good.jpg", "new\nline.jpg"}
    for name in ("cut.jpg", "empty.jpg", "text.jpg", "raw.nef", "pipe.jpg", "loop.jpg", "timeless.png"):
        assert any(name in sentence for sentence in found.refused), name
    assert len(found.refused) == 8 and not any("Traceback" in sentence for sentence in found.refused)


def test_a_folder_that_links_out_of_itself_is_not_followed(tmp_path):
    frame(tmp_path / "outside" / "a.jpg", SHOWN)
    card = tmp_path / "card"
    card.mkdir()
    (card / "way-out").symlink_to(tmp_path / "outside")
    assert read_card(card).frames == ()


def test_a_card_that_is_pulled_while_it_is_read_is_said(tmp_path):
    folder = tmp_path / "card"
    for n in range(4):
        frame(folder / f"{n}.jpg", SHOWN, n)

    def pull(done: int, of: int) -> None:
        if done == 2:
            shutil.rmtree(folder)

    with pytest.raises(CardGoneError, match="Put the card back"):
        read_card(folder, pull)
    with pytest.raises(CardGoneError):
        read_card(folder)


def test_reading_can_be_cancelled(tmp_path):
    for n in range(6):
        frame(tmp_path / f"{n}.jpg", SHOWN, n)
    told = []
    found = read_card(tmp_path, lambda *p: told.append(p), lambda: len(told) == 3)
    assert len(found.frames) == 3 and told == [(1, 6), (2, 6), (3, 6)]


@pytest.mark.skipif(EXIFTOOL is None, reason="ExifTool is not installed")
def test_the_camera_is_the_one_that_exiftool_reads(tmp_path):
    path = frame(tmp_path / "a.jpg", SHOWN, serial="00123")
    frame(tmp_path / "b.jpg", SHOWN)
    ask = [EXIFTOOL, "-s3", "-Model", "-SerialNumber", str(path)]
    told = subprocess.run(ask, capture_output=True, text=True, check=True).stdout.split("\n")
    assert [found.body for found in read_card(tmp_path).frames] == [" ".join(told[:2]), ""]


def test_a_folder_in_the_card_that_cannot_be_read_is_told(tmp_path):
    frame(tmp_path / "a.jpg", SHOWN)
    frame(tmp_path / "101CAM" / "b.jpg", SHOWN)
    closed = tmp_path / "101CAM"
    closed.chmod(0)
    script = (
        "import sys\nfrom pathlib import Path\nfrom ondine.logbook.card import read_card\n"
        "card = read_card(Path(sys.argv[1]))\nprint([f.path.name for f in card.frames], *card.refused)"
    )
    done = subprocess.run(
        [*PLAIN_RIGHTS, sys.executable, "-c", script, str(tmp_path)], capture_output=True, text=True, check=True
    )
    closed.chmod(0o755)
    assert done.stdout.startswith(f"['a.jpg'] The folder {closed} cannot be read (Permission denied)")
