from datetime import datetime
from io import BytesIO

import pytest
from PIL import Image

from ondine.logbook.intake import Taken, open_picture, read_picture, read_taken
from ondine.logbook.picture_error import PictureError
from ondine.logbook.raw import preview, read_raw
from ondine.logbook.thumbnails import Original, Thumbnails
from tests.rawfiles import dng

TAKEN = datetime(2026, 5, 9, 20, 15, 7)


def test_a_raw_file_tells_what_it_is(tmp_path):
    path = dng(tmp_path / "a.dng", taken_at=TAKEN)
    facts = read_raw(path)
    assert (facts.width_px, facts.height_px, facts.taken_at) == (384, 256, TAKEN)
    assert facts.exposure_s == pytest.approx(1 / 200) and facts.f_number == 16 and facts.iso is None
    # Without a zone the camera's clock is taken as local time.
    assert read_picture(path).taken_at == TAKEN.astimezone() and read_taken(path) == Taken(TAKEN.astimezone())


def test_a_raw_file_without_a_picture_in_it_is_shown_as_its_decoder_makes_it(tmp_path):
    path = dng(tmp_path / "a.dng")
    with Image.open(BytesIO(preview(path))) as image:
        assert image.format == "JPEG" and image.size == (192, 128)
    with open_picture(path) as image:
        image.load()
    assert Thumbnails(tmp_path / "t").of(Original(path, "0" * 64)).exists()


@pytest.mark.parametrize("content", [b"", b"II*\0", b"\xff\xd8\xff\xe0 a jpeg in a raw file's clothes", bytes(5000)])
def test_what_is_no_raw_file_is_said(tmp_path, content):
    path = tmp_path / "a.nef"
    path.write_bytes(content)
    for read in (read_raw, preview, read_picture, read_taken):
        with pytest.raises(PictureError, match=r"a\.nef"):
            read(path)


def test_a_raw_file_that_was_cut_short_is_said_and_left(tmp_path):
    path = dng(tmp_path / "a.dng")
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(PictureError, match="raw file"):
        read_picture(path)
    assert path.read_bytes() == whole[: len(whole) // 2]
