"""Sensor, lens, where the camera stands, and what the print shall be."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ondine.core.setup.fields import number, plain

SENSORS = {
    "Medium format, 44 × 33": (43.8e-3, 32.9e-3),
    "Full frame, 36 × 24": (36.0e-3, 24.0e-3),
    "APS-C, 23.5 × 15.7": (23.5e-3, 15.667e-3),
    "Four thirds, 17.3 × 13": (17.3e-3, 13.0e-3),
    "One inch, 13.2 × 8.8": (13.2e-3, 8.8e-3),
}
"""Sides of sensors by their format [m]."""


@dataclass(frozen=True)
class Camera:
    """Sensor [m, px], lens, place and exposure.

    `water_line_share` is where the water stands, from the frame's foot; `height_m` is the lens over the water;
    `front_glass_m` is how far the front glass is from the falling drops.
    """

    name: str = plain("Body A", "Camera")
    sensor_width_m: float = number(23.5e-3, 2e-3, 0.3, "Sensor, long side")
    width_px: int = number(6000, 100, 100_000, "Pixels, long side")
    height_px: int = number(4000, 100, 100_000, "Pixels, short side")
    portrait: bool = plain(False, "Portrait")
    magnification: float = number(0.25, 0.01, 5.0, "Magnification")
    focal_length_m: float = number(0.090, 0.005, 2.0, "Focal length")
    pupil_ratio: float = number(1.0, 0.2, 5.0, "Pupil ratio")
    f_number: float = number(16.0, 0.7, 128.0, "Aperture")
    iso: int = number(200, 6, 1_000_000, "ISO")
    exposure_s: float = number(0.5, 1e-5, 60.0, "Exposure")
    water_line_share: float = number(0.20, 0.0, 0.9, "Water line from the frame's foot")
    height_m: float = number(0.031, 0.0, 2.0, "Lens over the water")
    front_glass_m: float = number(0.22, 0.005, 5.0, "Front glass from the drops")
    front_guard: bool = plain(False, "Splash guard before the front glass")
    print_width_m: float = number(0.60, 0.02, 10.0, "Print, long side")
    viewing_distance_m: float = number(0.80, 0.1, 50.0, "Seen from")

    @property
    def frame_px(self) -> tuple[int, int]:
        """Width and height of the frame as it is held."""
        return (self.height_px, self.width_px) if self.portrait else (self.width_px, self.height_px)

    @property
    def pixel_on_subject_m(self) -> float:
        """Pitch of the pixels in the plane of the splash."""
        return self.pixel_pitch_m / self.magnification

    @property
    def pixel_pitch_m(self) -> float:
        """Pitch of the pixels on the sensor."""
        return self.sensor_width_m / self.width_px

    @property
    def frame_width_m(self) -> float:
        """Width of the field of view in the plane of the splash."""
        return self.frame_px[0] * self.pixel_on_subject_m

    @property
    def frame_height_m(self) -> float:
        """Height of the field of view in the plane of the splash."""
        return self.frame_px[1] * self.pixel_on_subject_m

    @property
    def frame_top_m(self) -> float:
        """Height over the water of the frame's upper edge."""
        return self.frame_height_m * (1 - self.water_line_share)

    @property
    def frame_foot_m(self) -> float:
        """Height over the water of the frame's lower edge, below zero where the pool is in the picture."""
        return -self.frame_height_m * self.water_line_share

    @property
    def format(self) -> str:
        """The sensor's format, or nothing if it is none of the usual ones."""
        known = [name for name, (side, _) in SENSORS.items() if abs(side - self.sensor_width_m) < 0.3e-3]
        return known[0] if known else ""

    def with_format(self, name: str) -> Camera:
        """Return a camera with a sensor of a format and about as many pixels."""
        long, short = SENSORS[name]
        pixels = self.width_px * self.height_px
        width = round((pixels * long / short) ** 0.5)
        return replace(self, sensor_width_m=long, width_px=width, height_px=round(width * short / long))
