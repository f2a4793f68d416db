from datetime import UTC, datetime
from pathlib import Path

import exifread
import pytest
from PIL import Image

from ondine.bench.simulated.jpeg import write_jpeg
from ondine.core.setup import Camera
from ondine.logbook.intake import MAX_PIXELS, PictureError, read_picture

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


def test_a_picture_of_thirty_thousand_pixels_a_side_is_refused_unread(tmp_path):
    path = tmp_path / "a.png"
    Image.new("1", (30_000, 30_000)).save(path)
    assert MAX_PIXELS < 30_000 * 30_000
    with pytest.raises(PictureError, match=r"more (pixels )?than Ondine reads"):
        read_picture(path)


def test_a_long_picture_is_read(tmp_path):
    path = tmp_path / "a.jpg"
    Image.new("L", (30_000, 400)).save(path)
    assert read_picture(path).width_px == 30_000


def test_raw_files_and_missing_files(tmp_path):
    with pytest.raises(PictureError, match="not a JPEG, TIFF or PNG"):
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
