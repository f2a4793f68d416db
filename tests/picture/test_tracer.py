import numpy as np
import pytest

from ondine.core.setup import Camera
from ondine.picture.exposure import trace
from ondine.picture.look import Ink, Look
from ondine.picture.scene import Blob, Column, Scene, Sheet
from ondine.picture.tracer import fresnel

SMALL = (300, 200)


def test_fresnel_at_the_ends():
    # Normal incidence on water: ((n-1)/(n+1))² = 2.0 %; grazing: all. Hecht, Optics, ch. 4.6.
    assert fresnel(1.0, 1.0, 1.333) == pytest.approx(((1.333 - 1) / (1.333 + 1)) ** 2, rel=1e-6)
    assert fresnel(1e-6, 1.0, 1.333) == pytest.approx(1.0, abs=1e-4)
    # Brewster's angle: only one polarisation is left, half of its reflectance.
    angle = np.arctan(1.333)
    alone = ((np.cos(angle) - 1.333 * np.cos(np.arcsin(np.sin(angle) / 1.333))) / (
        np.cos(angle) + 1.333 * np.cos(np.arcsin(np.sin(angle) / 1.333)))) ** 2  # fmt: skip
    assert fresnel(float(np.cos(angle)), 1.0, 1.333) == pytest.approx(alone / 2, rel=1e-6)
    # Past the critical angle all is reflected.
    assert fresnel(0.5, 1.333, 1.0) == 1.0


def test_a_drop_turns_the_background_upside_down():
    camera = Camera(magnification=0.4)
    bright_above = Look(
        low=(0.0, 0.0, 0.0), high=(1.0, 1.0, 1.0), glow=(0.5, 0.5, 0.5), inks=(Ink((0.0, 0.0, 0.0)),), side_light=0
    )
    drop = Scene(blobs=[Blob(0, 0, 20, 4, 4, 1.0)])
    image = trace([drop], bright_above, camera, 1, SMALL).mean(axis=2)
    pitch = camera.frame_width_m * 1e3 / SMALL[0]
    # Film rows of z = 20 mm, plus and minus half a radius; the camera looks slightly down.
    centre = round(SMALL[1] * (1 - camera.water_line_share) - 20 / pitch)
    upper = image[centre - round(2 / pitch), 146:154].mean()
    lower = image[centre + round(2 / pitch), 146:154].mean()
    beside_upper, beside_lower = image[centre - round(2 / pitch), 20], image[centre + round(2 / pitch), 20]
    assert lower > 1.2 * upper
    assert beside_upper >= beside_lower


def test_motion_smears_a_falling_drop():
    camera = Camera(magnification=0.4)

    def sharpness(travel_mm: float) -> float:
        steps = [Scene(blobs=[Blob(0, 0, 20 - travel_mm * i / 4, 3, 3)]) for i in range(5)]
        image = trace(steps, Look(), camera, 1, SMALL).mean(axis=2)
        return float(np.abs(np.diff(image[:, 140:160], axis=0)).max(axis=0).mean())

    assert sharpness(0.0) > 1.15 * sharpness(3.0)


def test_each_part_is_tinted_by_the_ink_that_it_bears():
    """Two like drops, sheets and columns side by side, clear and dark: each takes its own ink, whichever is first."""
    camera = Camera(magnification=0.4)
    clear, dark = Ink((0.0, 0.0, 0.0)), Ink((0.6, 0.6, 0.6))

    def halves(kind: str, left: int, right: int) -> tuple[float, float]:
        scene = Scene()
        for x, ink in ((-9.0, left), (9.0, right)):
            if kind == "blob":
                scene.blobs.append(Blob(x, 0, 20, 4, 4, ink=ink))
            elif kind == "sheet":
                scene.sheets.append(Sheet(18, 6, 2, 0.4, 0.5, x=x, ink=ink))
            else:
                spot = scene.spot(x)
                spot.column, spot.ink = Column(16, 2.5, 2.0), ink
        image = trace([scene], Look(inks=(clear, dark)), camera, 1, SMALL).mean(axis=2)
        empty = trace([Scene()], Look(inks=(clear, dark)), camera, 1, SMALL).mean(axis=2)
        differs = np.abs(image - empty) > 0.02
        middle = SMALL[0] // 2
        return tuple(float(image[:, part][differs[:, part]].mean()) for part in (slice(0, middle), slice(middle, None)))

    for kind in ("blob", "sheet", "column"):
        one, other = halves(kind, 0, 1), halves(kind, 1, 0)
        assert one[0] > 1.05 * other[0] and other[1] > 1.05 * one[1], kind
