"""White balance against flash and gels, and how far colours stand apart."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.light.exposure import Times, unit_on_background, unit_on_subject
from ondine.core.light.lens import distance_at_m
from ondine.core.light.tones import linear
from ondine.core.setup import Setup

Floats = NDArray[np.float64]

MIRED = 1e6

_XYZ_OF_RGB = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
"""Linear sRGB to XYZ, IEC 61966-2-1."""

_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
"""Bradford cone responses, as in ICC.1 (from memory)."""

_D65 = np.array([0.95047, 1.0, 1.08883])

PLANCK_RANGE_K = (1667.0, 25000.0)

APART = 20.0
"""Colour difference below which two things look alike at a glance. Common practice."""


def mired_shift(from_k: float, to_k: float) -> float:
    """Shift from one colour temperature to another, 10⁶/T2 - 10⁶/T1 [mired]; temperatures in [K]."""
    return MIRED / to_k - MIRED / from_k


def shifted_k(colour_k: float, mired: float) -> float:
    """Colour temperature of a light behind a gel that shifts it. colour_k : [K]; mired : [mired]. Returns [K]."""
    return MIRED / (MIRED / colour_k + mired)


def planckian_xy(temperature_k: float) -> tuple[float, float]:
    """Chromaticity of a black body, CIE 1931 x and y.

    temperature_k : 1667 to 25000 [K], held there outside. Cubic fits by Kang et al. 2002, J. Korean Phys. Soc. 41:865
    (coefficients from memory; within 0.0003 of Ohno 2013 by colour-science, see tests).
    """
    t = min(max(temperature_k, PLANCK_RANGE_K[0]), PLANCK_RANGE_K[1])
    u = 1e3 / t
    if t <= 4000:
        x = -0.2661239 * u**3 - 0.2343589 * u**2 + 0.8776956 * u + 0.179910
    else:
        x = -3.0258469 * u**3 + 2.1070379 * u**2 + 0.2226347 * u + 0.240390
    if t <= 2222:
        y = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    elif t <= 4000:
        y = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    else:
        y = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    return x, y


def white_xyz(temperature_k: float) -> Floats:
    """White of a black body with Y = 1, shape (3,)."""
    x, y = planckian_xy(temperature_k)
    return np.array([x / y, 1.0, (1 - x - y) / y])


def adapted(xyz: Floats, from_white: Floats, to_white: Floats) -> Floats:
    """Carry a colour from one white to another by von Kries in Bradford's cones; shapes (3,)."""
    gains = (_BRADFORD @ to_white) / (_BRADFORD @ from_white)
    return np.asarray(np.linalg.solve(_BRADFORD, gains * (_BRADFORD @ xyz)))


def seen_under(tint: str, white: Floats, white_balance_k: float) -> str:
    """Colour that a thing of a tint (#rrggbb in daylight) has under light of a white, shape (3,), at a balance [K]."""
    xyz = _XYZ_OF_RGB @ linear(_rgb(tint))
    lit = adapted(xyz, _D65, white)
    pictured = adapted(lit, white_xyz(white_balance_k), _D65)
    return _hex(np.linalg.solve(_XYZ_OF_RGB, pictured))


def cast(light_k: float, white_balance_k: float) -> Floats:
    """Linear sRGB that white has in a picture, shape (3,): its luminance is 1, a channel may exceed it. [K]."""
    pictured = adapted(white_xyz(light_k), white_xyz(white_balance_k), _D65)
    return np.asarray(np.linalg.solve(_XYZ_OF_RGB, pictured))


def linear_rgb(tint: str) -> Floats:
    """Linear sRGB of a tint (#rrggbb), shape (3,)."""
    return linear(_rgb(tint))


def lab(tint: str) -> Floats:
    """CIE 1976 L*a*b* under D65, shape (3,)."""
    ratio = (_XYZ_OF_RGB @ linear(_rgb(tint))) / _D65
    cube = np.where(ratio > (6 / 29) ** 3, np.cbrt(ratio), ratio / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.array([116 * cube[1] - 16, 500 * (cube[0] - cube[1]), 200 * (cube[1] - cube[2])])


def difference(one: str, other: str) -> float:
    """Colour difference ΔE*ab, CIE 1976: the distance in L*a*b*."""
    return float(np.linalg.norm(lab(one) - lab(other)))


@dataclass(frozen=True)
class Palette:
    """Drop, bowl and background as pictured, and how far each unit's light is shifted from the white balance [mired],
    by the units' names; a light warmer than the balance shows warm.
    """

    drop: str
    bowl: str
    background: str
    shifts: tuple[tuple[str, float], ...]

    @property
    def pairs(self) -> tuple[tuple[str, float], ...]:
        """How far each two stand apart, ΔE*ab."""
        return (
            ("drop and bowl", difference(self.drop, self.bowl)),
            ("drop and background", difference(self.drop, self.background)),
            ("bowl and background", difference(self.bowl, self.background)),
        )

    @property
    def alike(self) -> tuple[str, ...]:
        """Which two are hard to tell apart."""
        return tuple(pair for pair, apart in self.pairs if apart < APART)

    @property
    def words(self) -> str:
        """Say how the picture is tinted, and what is hard to tell apart."""
        several = len(self.shifts) > 1
        says = " ".join(f"{name}: {_cast_words(by)}" if several else _cast_words(by) for name, by in self.shifts)
        return f"{says} Hard to tell apart: {', '.join(self.alike)}." if self.alike else says


def _cast_words(shift: float) -> str:
    tint = "neutral" if abs(shift) < 10 else "warm" if shift > 0 else "blue"
    strong = "" if tint == "neutral" else ", strongly" if abs(shift) > 80 else ", a little"
    return f"{mired_words(shift)}, {tint}{strong}."


def mired_words(shift: float) -> str:
    """Write a shift with its sign; nothing has none."""
    return f"{round(shift):+d} mired" if round(shift) else "0 mired"


def palette(setup: Setup, times: Times = None) -> Palette:
    """Return the colours of a set-up: each unit's light through its gel, mixed as it falls on splash and background.

    times : how often each unit lights in the picture; None: once. Those that do not light count for nothing.
    """
    light, balance_k = setup.light, setup.light.white_balance_k
    often = times if times is not None and any(times) else (1,) * len(light.units)
    lit = [(unit, n, shifted_k(unit.colour_k, unit.gel_mired)) for unit, n in zip(light.units, often, strict=True) if n]
    whites = np.array([white_xyz(light_k) for _, _, light_k in lit])
    on_splash = np.array([n * unit_on_subject(unit) for unit, n, _ in lit])
    behind = np.array([n * unit_on_background(unit, light.background_m) for unit, n, _ in lit])
    splash, sheet = (amounts @ whites / amounts.sum() for amounts in (on_splash, behind))
    return Palette(
        drop=seen_under(setup.mix.tint, splash, balance_k),
        bowl=seen_under(setup.bowl.tint, splash, balance_k),
        background=seen_under(light.background_tint, sheet, balance_k),
        shifts=tuple((unit.name, mired_shift(balance_k, light_k)) for unit, _, light_k in lit),
    )


def sheet_size_m(setup: Setup, spare: float = 1.15) -> tuple[float, float]:
    """Size that a background sheet needs to fill the frame behind the splash, with some to spare [m].

    The frame widens with the distance from the lens.
    """
    camera = setup.camera
    away = distance_at_m(camera.focal_length_m, camera.magnification)
    wider = spare * (away + setup.light.background_m) / away
    return camera.frame_width_m * wider, camera.frame_height_m * wider


def _rgb(tint: str) -> Floats:
    return np.array([int(tint[i : i + 2], 16) / 255 for i in (1, 3, 5)])


def _hex(rgb: Floats) -> str:
    held = np.clip(rgb, 0, 1)
    coded = np.where(held <= 0.0031308, 12.92 * held, 1.055 * held ** (1 / 2.4) - 0.055)
    return "#" + "".join(f"{round(float(c) * 255):02x}" for c in coded)
