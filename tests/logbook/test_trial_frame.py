from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from ondine.core.light.tones import tones
from ondine.logbook.picture_error import PictureError
from ondine.logbook.trial_frame import read_trial_frame
from tests.rawfiles import dng

SEASON = Path(__file__).parents[2] / "src" / "ondine" / "demo" / "season"


def test_a_camera_jpeg_tells_its_exposure():
    frame = read_trial_frame(SEASON / "060.jpg")
    assert (frame.exposure_s, frame.f_number, frame.iso) == (0.5, 16, 200)
    assert frame.pixels.shape[2] == 3 and frame.pixels.dtype == np.uint8


def test_a_raw_file_is_read_as_linear_light(tmp_path):
    dim, bright = (read_trial_frame(dng(tmp_path / f"{n}.dng", n)) for n in (500, 1000))
    assert bright.exposure_s == pytest.approx(1 / 200) and bright.f_number == 16 and bright.iso is None
    # Twice the sensor's value is one stop more.
    assert tones(bright.pixels).median / tones(dim.pixels).median == pytest.approx(2, rel=0.05)


def test_frames_that_tell_nothing_are_refused(tmp_path):
    exported = tmp_path / "exported.jpg"
    Image.new("RGB", (60, 40), "grey").save(exported)
    with pytest.raises(PictureError, match="A raw file, or a JPEG as the camera wrote it, is wanted"):
        read_trial_frame(exported)
    broken = tmp_path / "broken.dng"
    broken.write_bytes(b"II*\0" + bytes(200))
    with pytest.raises(PictureError, match="cannot be read as a raw file"):
        read_trial_frame(broken)
    edited = tmp_path / "edited.jpg"
    with Image.open(SEASON / "060.jpg") as image:
        packet = b"<x:xmpmeta><xmpMM:History>edited</xmpMM:History></x:xmpmeta>"
        image.save(edited, exif=image.getexif(), xmp=packet)
    with pytest.raises(PictureError, match="was edited"):
        read_trial_frame(edited)
    (tmp_path / "notes.txt").write_text("x")
    with pytest.raises(PictureError, match="not a JPEG"):
        read_trial_frame(tmp_path / "notes.txt")
