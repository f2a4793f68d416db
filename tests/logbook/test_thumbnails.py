import hashlib
import threading

import pytest
from PIL import Image

from ondine.logbook.picture_error import PictureError
from ondine.logbook.thumbnails import LONGEST_PX, Original, Thumbnails


@pytest.fixture
def made(tmp_path) -> Thumbnails:
    return Thumbnails(tmp_path / "cache" / "thumbnails")


def original(path, size=(3000, 2000), **how) -> Original:
    Image.radial_gradient("L").resize(size).convert("RGB").save(path, **how)
    return Original(path, hashlib.sha256(path.read_bytes()).hexdigest())


def test_a_thumbnail_is_made_once_and_kept_by_content(made, tmp_path):
    one = original(tmp_path / "a.jpg")
    place = made.of(one)
    with Image.open(place) as small:
        assert LONGEST_PX * 0.6 <= max(small.size) <= 800 and small.size[0] * 2 == pytest.approx(
            small.size[1] * 3, abs=6
        )
    written = place.stat().st_mtime_ns
    # The same content at another place: nothing of it is read again.
    assert made.of(Original(tmp_path / "moved.jpg", one.sha256)) == place
    assert place.stat().st_mtime_ns == written


def test_a_picture_is_turned_as_its_camera_says(made, tmp_path):
    exif = Image.Exif()
    exif[0x0112] = 6
    turned = original(tmp_path / "a.jpg", exif=exif)
    with Image.open(made.of(turned)) as small:
        assert small.size[1] > small.size[0]


@pytest.mark.parametrize("content", [b"", b"no picture", None])
def test_what_is_no_picture_is_said_and_leaves_nothing(made, tmp_path, content):
    path = tmp_path / "a.jpg"
    if content is None:
        whole = original(tmp_path / "whole.jpg")
        path.write_bytes(whole.path.read_bytes()[:20_000])
    else:
        path.write_bytes(content)
    with pytest.raises(PictureError):
        made.of(Original(path, "0" * 64))
    assert not list(made.folder.rglob("*.*"))


@pytest.mark.parametrize("address", ["../../etc/passwd", "0" * 63, "G" * 64, ""])
def test_only_an_address_of_content_names_a_file(made, tmp_path, address):
    with pytest.raises(ValueError, match="no address"):
        made.place(address)


def test_many_are_made_with_progress_and_what_fails_is_told(made, tmp_path):
    many = [original(tmp_path / f"{n}.jpg", (600 + n, 400)) for n in range(6)]
    (tmp_path / "bad.jpg").write_bytes(b"no picture")
    told = []
    failed = made.make_all([*many, Original(tmp_path / "bad.jpg", "0" * 64)], lambda *p: told.append(p), lambda: False)
    assert len(failed) == 1 and "bad.jpg" in str(failed[0])
    assert sorted(told) == [(n, 7) for n in range(1, 8)]
    assert all(made.place(one.sha256).exists() for one in many)


def test_making_many_can_be_cancelled(made, tmp_path):
    many = [original(tmp_path / f"{n}.jpg", (600 + n, 400)) for n in range(12)]
    stop = threading.Event()

    def progress(done: int, of: int) -> None:
        if done == 3:
            stop.set()

    made.make_all(many, progress, stop.is_set)
    assert 3 <= len(list(made.folder.rglob("*.jpg"))) <= 5
