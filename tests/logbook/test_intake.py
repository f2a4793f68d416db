import contextlib
import os
import tracemalloc
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory

import exifread
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from ondine.bench.simulated.jpeg import write_jpeg
from ondine.core.setup import Camera
from ondine.logbook.intake import read_picture
from ondine.logbook.picture_error import PictureError

TAKEN = datetime(2024, 2, 29, 23, 59, 58, 123_000, tzinfo=UTC)


def jpeg(path: Path) -> Path:
    from numpy import full, uint8

    write_jpeg(path, full((80, 120, 3), 90, dtype=uint8), Camera(), TAKEN)
    return path


def test_exif_of_our_pictures_reads_alike_by_exifread(tmp_path):
    path = jpeg(tmp_path / "a.jpg")
    with path.open("rb") as file:
        tags = exifread.process_file(file, details=False)
    assert str(tags["EXIF DateTimeOriginal"]) == "2024:02:29 23:59:58"
    assert str(tags["EXIF SubSecTimeOriginal"]) == "123"
    assert str(tags["EXIF OffsetTimeOriginal"]) == "+00:00"
    assert str(tags["EXIF ExposureTime"]) == "1/2"
    assert str(tags["EXIF FNumber"]) == "16"
    assert str(tags["EXIF FocalLength"]) == "90"
    assert str(tags["EXIF ISOSpeedRatings"]) == "200"
    facts = read_picture(path)
    assert facts.taken_at == TAKEN
    assert (facts.exposure_s, facts.f_number, facts.iso, facts.focal_length_m) == (0.5, 16, 200, pytest.approx(0.09))


@pytest.mark.parametrize("suffix", [".jpg", ".JPEG", ".tif", ".TIFF", ".png"])
def test_jpeg_tiff_and_png_are_taken(tmp_path, suffix):
    path = tmp_path / f"a{suffix}"
    Image.new("RGB", (64, 48), (10, 200, 30)).save(path)
    facts = read_picture(path)
    assert (facts.width_px, facts.height_px, facts.taken_at) == (64, 48, None)


def test_a_camera_without_a_zone_is_taken_as_local(tmp_path):
    path = tmp_path / "a.jpg"
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x9003] = "2024:02:29 23:59:58"
    Image.new("RGB", (8, 8)).save(path, exif=exif)
    assert read_picture(path).taken_at == datetime(2024, 2, 29, 23, 59, 58).astimezone(UTC)


def test_a_truncated_picture(tmp_path):
    path = jpeg(tmp_path / "a.jpg")
    path.write_bytes(path.read_bytes()[:-400])
    with pytest.raises(PictureError, match="damaged or not complete"):
        read_picture(path)


@pytest.mark.parametrize("content", [b"", b"\xff\xd8\xff", b"not a picture", b"\x89PNG\r\n\x1a\n" + b"\0" * 40])
def test_what_is_no_picture(tmp_path, content):
    path = tmp_path / "a.jpg"
    path.write_bytes(content)
    with pytest.raises(PictureError, match=r"cannot be read as a picture|damaged"):
        read_picture(path)


def test_a_picture_that_is_too_large_is_refused_unread_and_says_so(tmp_path):
    path = tmp_path / "a.png"
    Image.new("1", (30_000, 5_900)).save(path)
    tracemalloc.start()
    with pytest.raises(PictureError, match="177 megapixels, more than the 64 that Ondine reads of a PNG"):
        read_picture(path)
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert most < 20_000_000


def test_a_progressive_jpeg_counts_as_one_that_is_decoded_whole(tmp_path):
    path = tmp_path / "a.jpg"
    Image.new("L", (10_000, 6_500), 90).save(path, quality=20, progressive=True)
    with pytest.raises(PictureError, match="65 megapixels, more than the 64"):
        read_picture(path)


def test_a_jpeg_of_more_pixels_than_the_decoders_own_limit_is_read(tmp_path):
    # Pillow by itself refuses above 179 megapixels.
    path = tmp_path / "a.jpg"
    Image.new("L", (30_000, 6_200), 90).save(path, quality=20)
    assert read_picture(path).height_px == 6_200


@pytest.mark.parametrize(
    "text", ["0001:01:01 00:00:00", "9999:12:31 23:59:59", "1970:01:01 00:00:00", "2024:13:45 99:99:99"]
)
@pytest.mark.parametrize("zone", ["", "+14:00", "-12:00", "+99:99", "nonsense"])
def test_a_clock_that_was_never_set_tells_nothing_and_harms_nothing(tmp_path, text, zone):
    path = tmp_path / "a.jpg"
    exif = Image.Exif()
    details = exif.get_ifd(0x8769)
    details[0x9003], details[0x9011], details[0x9291], details[0x829D] = text, zone, "9" * 50, 8.0
    Image.new("RGB", (8, 8)).save(path, exif=exif)
    facts = read_picture(path)
    # What else it says is not lost with it.
    assert facts.taken_at is None and facts.f_number == 8.0


def test_pointers_in_the_exif_that_lead_nowhere(tmp_path):
    path = jpeg(tmp_path / "a.jpg")
    whole = path.read_bytes()
    pointer = whole.index(b"\x87\x69") if b"\x87\x69" in whole[:400] else whole.index(b"\x69\x87")
    for value in (b"\xff\xff\xff\xff", b"\x80\x00\x00\x00", b"\x00\x00\x00\x01"):
        path.write_bytes(whole[: pointer + 8] + value + whole[pointer + 12 :])
        assert read_picture(path).width_px == 120


def test_names_that_are_no_text_pipes_and_devices_are_refused_in_words(tmp_path):
    strange = Path(os.fsdecode(os.fsencode(tmp_path) + b"/\xff\xfe.jpg"))
    jpeg(tmp_path / "a.jpg").rename(strange)
    with pytest.raises(PictureError, match="bytes that are no text"):
        read_picture(strange)
    os.mkfifo(tmp_path / "pipe.jpg")
    (tmp_path / "zero.jpg").symlink_to("/dev/zero")
    for name in ("pipe.jpg", "zero.jpg"):
        with pytest.raises(PictureError, match="a folder or a device"):
            read_picture(tmp_path / name)


@given(
    st.integers(0, 10**6),
    st.lists(st.tuples(st.integers(0, 3000), st.integers(0, 255)), min_size=1, max_size=12),
    st.sampled_from([".jpg", ".png", ".tif"]),
)
@settings(max_examples=150)
def test_whatever_bytes_a_picture_has_it_is_read_or_refused(cut, changes, suffix):
    with TemporaryDirectory() as folder:
        path = Path(folder) / f"a{suffix}"
        if suffix == ".jpg":
            jpeg(path)
        else:
            Image.new("RGB", (64, 48), (10, 200, 30)).save(path)
        content = bytearray(path.read_bytes())
        for at, value in changes:
            content[at % len(content)] = value
        path.write_bytes(content[: max(cut, 1)])
        with contextlib.suppress(PictureError):
            assert read_picture(path).width_px > 0


def test_a_long_picture_is_read(tmp_path):
    path = tmp_path / "a.jpg"
    Image.new("L", (30_000, 400)).save(path)
    assert read_picture(path).width_px == 30_000


def test_other_files_and_missing_files(tmp_path):
    with pytest.raises(PictureError, match="not a JPEG, TIFF, PNG or raw file"):
        read_picture(tmp_path / "a.mov")
    with pytest.raises(PictureError, match="not there any more"):
        read_picture(tmp_path / "a.cr2")
    with pytest.raises(PictureError, match="not there any more"):
        read_picture(tmp_path / "a.jpg")


def test_nonsense_in_the_exif_is_no_reason_to_refuse(tmp_path):
    path = tmp_path / "a.jpg"
    exif = Image.Exif()
    details = exif.get_ifd(0x8769)
    details[0x9003] = "0000:00:00 00:00:00"
    details[0x829D] = 0.0
    Image.new("RGB", (8, 8)).save(path, exif=exif)
    facts = read_picture(path)
    assert facts.taken_at is None and facts.f_number is None
