from dataclasses import replace

import pytest

from ondine.core.light.lens import magnification_by_ruler
from ondine.core.setup import Camera
from ondine.core.setup.camera import SENSORS


def test_field_of_view_of_an_aps_c_body_at_one_to_four():
    # Sensor side over magnification: 23.5 mm · 4 = 94 mm.
    camera = Camera(magnification=0.25)
    assert camera.frame_width_m == pytest.approx(0.094)
    upright = replace(camera, portrait=True)
    assert upright.frame_height_m == pytest.approx(0.094) and upright.frame_width_m == pytest.approx(0.094 * 2 / 3)
    assert magnification_by_ruler(23.5e-3, 0.094) == pytest.approx(0.25)


def test_formats_keep_their_shape():
    for name, (long, short) in SENSORS.items():
        camera = Camera().with_format(name)
        assert camera.format == name
        assert camera.width_px / camera.height_px == pytest.approx(long / short, rel=1e-3)
        assert camera.width_px * camera.height_px == pytest.approx(24e6, rel=1e-3)


def test_frame_of_an_aps_c_body_at_one_to_four():
    camera = Camera()
    assert camera.frame_width_m == pytest.approx(0.094)
    assert camera.pixel_on_subject_m == pytest.approx(0.094 / 6000)
