"""One foreseen picture, from coarse to finished: the sum of what each flash will show on a dark frame."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import sample_rigs
from ondine.core.constants import US_PER_S
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.lit import Lit, lit
from ondine.core.forecast.outline import outline
from ondine.core.forecast.whole import Forecast, forecast
from ondine.core.timing.sequence import FlashPulse
from ondine.studio.foreseen.light import look_of
from ondine.studio.foreseen.orders import Wanted
from ondine.studio.foreseen.scene import foreseen_scene

FEW_RIGS = 2
"""The mean rig alone is asked for: with two, it is the first."""

SEED = 5
EDGE_RAYS = 4
"""So many more rays have the edges of a finished picture, shared among its flashes."""

SHARPEST = 4
"""Instants of a flash that the finished picture is blurred over."""


@dataclass(frozen=True)
class Look8:
    """A look at a picture on its way: 8-bit RGB of shape (height, width, 3); `level` counts from coarse to finished."""

    level: int
    finished: bool
    pixels: NDArray[np.uint8]


def foresee(wanted: Wanted) -> Iterator[Look8 | None]:
    """Trace a picture; yields None where it may be given up, and every look at it on its way.

    Raises ValueError where nothing can be foreseen for the plan.
    """
    # The compiler behind the tracer takes a second to load: only who wants a picture pays for it.
    from ondine.picture.exposure import codes, noisy

    setup, sequence = wanted.plan.setup, wanted.plan.sequence
    what = forecast(setup, wanted.plan.belief, sequence, sample_rigs(wanted.plan.belief, FEW_RIGS))
    both = zip(sequence.flashes, lit(setup, sequence), strict=True)
    flashes = [(flash, light) for flash, light in both if light.units]
    if not flashes:
        width, height = wanted.size
        yield Look8(0, True, np.zeros((height, width, 3), dtype=np.uint8))
        return
    level, last = 0, np.zeros((1, 1, 3), dtype=np.float32)
    for instants in (1, SHARPEST) if smears(what, flashes, wanted) else (1,):
        for seen in _together(what, flashes, wanted, instants):
            if seen is None:
                yield None
                continue
            last = seen
            if instants == 1:
                yield Look8(level, False, codes(seen))
                level += 1
    finished = noisy(last, setup.camera.iso, SEED) if wanted.noisy else last
    yield Look8(level, True, codes(finished))


def _together(
    what: Forecast, flashes: list[tuple[FlashPulse, Lit]], wanted: Wanted, instants: int
) -> Iterator[NDArray[np.float32] | None]:
    """Trace what each flash shows side by side, and add up each level of it."""
    from ondine.picture.exposure import SHEET_LINEAR, sharpening

    setup = wanted.plan.setup
    traces = []
    for flash, light in flashes:
        scenes = [foreseen_scene(what, at_instant(what, time)) for time in shines_us(flash, light, instants)]
        look = look_of(setup, light, wanted.gain_stops)
        traces.append(sharpening(scenes, look, setup.camera, SEED, wanted.size, max(EDGE_RAYS // len(flashes), 1)))
    for seen in zip(*traces, strict=True):
        parts = [part for part in seen if part is not None]
        # All of one size go from band to band and from level to level together.
        yield np.asarray(sum(np.clip(part, 0, 8) for part in parts) * SHEET_LINEAR, np.float32) if parts else None


def shines_us(flash: FlashPulse, light: Lit, instants: int) -> list[int]:
    """Instants at which equal shares of a flash's light fall, from the trigger [us]; of one, the middle."""
    shares = (np.arange(instants) + 0.5) / instants
    return [round(flash.at_us + share * light.duration_s * US_PER_S) for share in shares]


def smears(what: Forecast, flashes: list[tuple[FlashPulse, Lit]], wanted: Wanted) -> bool:
    """Whether anything moves by a pixel of the wanted size while a flash lights."""
    pitch_m = wanted.plan.setup.camera.frame_width_m / wanted.size[0]
    for flash, light in flashes:
        edges = outline(what, at_instant(what, flash.at_us)).edges
        if any(edge.speed_m_s * light.duration_s > pitch_m for edge in edges):
            return True
    return False
