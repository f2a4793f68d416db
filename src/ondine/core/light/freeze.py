"""Which powers freeze the chosen instant, and what exposure each asks for."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ondine.core.light.blur import Edge, blur_px
from ondine.core.light.depth import ARC_MINUTE
from ondine.core.light.flash import Duration, LightCurve, curve_of, duration_of
from ondine.core.setup import Camera
from ondine.core.setup.light import Flash

WAITS_US = (1_000, 2_000)
"""How much later a picture may be taken without becoming another one."""

SHARP_ENOUGH_PX = 0.5
"""Below it nothing is gained."""


@dataclass(frozen=True)
class FreezeRow:
    """One power: how long it shines, how much each edge smears (in the order of the edges) [px], and the ISO that it
    asks for. `low_px`, `high_px`: the worst edge's smear at the duration's bounds.
    """

    power: float
    duration: Duration
    blurs_px: tuple[float, ...]
    iso: float
    low_px: float
    high_px: float

    @property
    def worst_px(self) -> float:
        """Smear of the fastest edge [px]."""
        return max(self.blurs_px, default=0.0)


def freeze_table(
    edges: Iterable[Edge], flash: Flash, powers: Iterable[float], camera: Camera, right_iso: float, share: float = 1.0
) -> list[FreezeRow]:
    """Return a row for each power of one unit.

    right_iso : the ISO that is right at the power the unit is set to; share : the part of the picture's light that the
    unit gives [1]. Twice the power of the only unit asks for half the ISO; that of one among others for more.
    """
    speeds = [edge.speed_m_s for edge in edges]
    fastest = max(speeds, default=0.0)
    pitch, curve = camera.pixel_on_subject_m, curve_of(flash)
    rows = []
    for power in powers:
        duration = duration_of(flash, power, curve)
        blurs = tuple(float(b) for b in blur_px(speeds, duration.half_s, pitch))
        low, high = (float(blur_px(fastest, t, pitch)) for t in (duration.low_s, duration.high_s))
        rows.append(FreezeRow(power, duration, blurs, right_iso / (1 - share + share * power / flash.power), low, high))
    return rows


def sharpest(rows: Iterable[FreezeRow], max_iso: float) -> FreezeRow | None:
    """The school of sharpness: the least power that the highest ISO still lights. None if no power does."""
    lit = [row for row in rows if row.iso <= max_iso * 1.001]
    return min(lit, key=lambda row: row.power, default=None)


def cleanest(rows: Iterable[FreezeRow], target_px: float) -> FreezeRow | None:
    """The school of clean pictures: the greatest power that is still sharp enough. None if none is."""
    sharp = [row for row in rows if row.worst_px <= target_px * 1.001]
    return max(sharp, key=lambda row: row.power, default=None)


def print_target_px(camera: Camera) -> float:
    """Smear that the print hides from where it is seen: one arc minute [px]."""
    return camera.viewing_distance_m * ARC_MINUTE / camera.print_width_m * max(camera.width_px, camera.height_px)


@dataclass(frozen=True)
class Waiting:
    """Taking the picture `wait_us` later smears the fastest edge by `later_px` instead of `now_px`; a stop less flash
    would leave `stop_px`.
    """

    wait_us: int
    now_px: float
    later_px: float
    stop_px: float
    edge: str

    @property
    def words(self) -> str:
        """Say what waiting buys."""
        return (
            f"Wait {self.wait_us / 1000:g} ms: the {self.edge} slows, {self.later_px:.1f} px instead of "
            f"{self.now_px:.1f}. A stop less flash would leave {self.stop_px:.1f} px."
        )


def waiting(
    edges_at: Callable[[int], list[Edge]], time_us: int, flash: Flash, camera: Camera, curve: LightCurve | None = None
) -> Waiting | None:
    """Say when one or two ms more buy more than another stop of flash, or None.

    edges_at : the edges of the splash at a time of the sequence [µs].
    """
    curve = curve or curve_of(flash)
    pitch = camera.pixel_on_subject_m
    half = duration_of(flash, flash.power, curve).half_s
    shorter = duration_of(flash, max(flash.power / 2, flash.least_power), curve).half_s
    now = max(edges_at(time_us), key=lambda e: e.speed_m_s, default=None)
    if now is None:
        return None
    now_px, stop_px = (float(blur_px(now.speed_m_s, t, pitch)) for t in (half, shorter))
    if now_px < SHARP_ENOUGH_PX:
        return None
    best: Waiting | None = None
    for wait in WAITS_US:
        later = edges_at(time_us + wait)
        # Only the same edge counts: a sheet that is gone is no sharper sheet.
        same = [e for e in later if e.name == now.name]
        worst = max(later, key=lambda e: e.speed_m_s, default=None)
        if not same or worst is None:
            continue
        later_px = float(blur_px(worst.speed_m_s, half, pitch))
        if later_px < stop_px and (best is None or later_px < best.later_px):
            best = Waiting(wait, now_px, later_px, stop_px, now.name)
    return best


def unlit(edges: Iterable[Edge], exposure_s: float, camera: Camera) -> float:
    """Smear of the fastest edge without any flash, over the whole shutter [s]. Returns [px]."""
    fastest = max((edge.speed_m_s for edge in edges), default=0.0)
    return float(blur_px(fastest, exposure_s, camera.pixel_on_subject_m))
