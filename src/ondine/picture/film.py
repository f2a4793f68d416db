"""Which rays make a picture, compiled: few where it is smooth, more where it is rough, from coarse to fine."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ondine.picture.compiled import jit
from ondine.picture.layout import REACH
from ondine.picture.tracer import approach, radiance

TILE = 8
"""Pixels along a side of the tiles whose rays share their way through the air."""

COARSE = 4
"""The first look at a picture has each so-many-th pixel of each row and column."""

SMOOTH = 0.06
"""Where the neighbours of a pixel differ by less than this share, it is their mean."""

ROUGH = 0.5
"""Contrast with the neighbours that counts as an edge."""

BANDS = 4
"""A picture is made in so many bands: between them it can be given up."""


class Sight(NamedTuple):
    """All that the rays of one picture share.

    scenes : packed scenes at equally bright instants of the flash, shape (k, ·); look : `Look.packed`;
    geometry : distance, sine and cosine of the tilt, height of the aim, lens radius; pitch : of the pixels [mm];
    jitter : random numbers, shape (m, 5): place on the pixel, on the lens, in time;
    clear, among : what `approach` found for each tile and instant, shape (rows, columns, k).
    """

    scenes: Any
    look: Any
    geometry: Any
    pitch: float
    jitter: Any
    clear: Any
    among: Any


@jit
def camera_ray(
    geometry: Any, u: float, v: float, lx: float, ly: float
) -> tuple[float, float, float, float, float, float]:
    """Origin and direction of a ray through film point (u, v) [mm on the subject] and lens point (lx, ly)."""
    distance, sine, cosine, aim, lens = geometry
    ax, ay = lx * lens, ly * lens
    ox, oy, oz = ax, -distance * cosine - ay * sine, aim + distance * sine + ay * cosine
    tx, ty, tz = u, v * sine, aim + v * cosine
    dx, dy, dz = tx - ox, ty - oy, tz - oz
    length = math.sqrt(dx * dx + dy * dy + dz * dz)
    return ox, oy, oz, dx / length, dy / length, dz / length


@jit
def shoot(
    sight: Any, image: Any, row: float, col: float, when: float, lx: float, ly: float, out: Any, work: Any
) -> bool:
    """One camera ray through a place of the image [pixels] at a share of the flash's light, into out[0:3].

    Returns whether it came near any liquid.
    """
    u = (col - image.shape[1] / 2) * sight.pitch
    v = (image.shape[0] / 2 - row) * sight.pitch
    x, y, z, dx, dy, dz = camera_ray(sight.geometry, u, v, lx, ly)
    k = int(when * sight.scenes.shape[0])
    tile_row, tile_col = int(row) // TILE, int(col) // TILE
    clear, among = sight.clear[tile_row, tile_col, k], sight.among[tile_row, tile_col, k]
    return radiance(sight.scenes[k], sight.look, x, y, z, dx, dy, dz, clear, among, out, work)


@jit
def approach_all(scenes: Any, geometry: Any, width: int, height: int, pitch: float) -> tuple[Any, Any]:
    """Walk one bundle of rays for each tile and instant: how far is clear, and which parts it can meet."""
    rows, cols, times = (height + TILE - 1) // TILE, (width + TILE - 1) // TILE, scenes.shape[0]
    clear, among = np.zeros((rows, cols, times)), np.zeros((rows, cols, times), dtype=np.int64)
    for row in range(rows):
        for col in range(cols):
            u, v = (col * TILE + TILE / 2 - width / 2) * pitch, (height / 2 - row * TILE - TILE / 2) * pitch
            x, y, z, dx, dy, dz = camera_ray(geometry, u, v, 0.0, 0.0)
            for k in range(times):
                s = scenes[k]
                # Half a tile's diagonal, and what the lens spreads before and behind the sharp plane.
                wide = 0.87 * TILE * pitch + geometry[4] * s[REACH] / geometry[0]
                clear[row, col, k], among[row, col, k] = approach(s, x, y, z, dx, dy, dz, wide)
    return clear, among


@jit
def take(image: Any, near: Any, sight: Any, row: int, col: int, out: Any, work: Any) -> None:
    """Give a pixel a ray of its own, through the middle of the lens."""
    at = (row * 7919 + col * 131) % sight.jitter.shape[0]
    near[row, col] = shoot(sight, image, row + 0.5, col + 0.5, sight.jitter[at, 4], 0.0, 0.0, out, work)
    for c in range(3):
        image[row, col, c] = out[c]


@jit
def sketch(image: Any, near: Any, sight: Any, first: int, last: int) -> None:
    """Give every COARSE-th pixel of some rows its ray; `near` notes which came near any liquid."""
    out, work = np.zeros(3), np.zeros(3)
    for row in range(first, last, COARSE):
        for col in range(0, image.shape[1], COARSE):
            take(image, near, sight, row, col, out, work)


@jit
def fill(image: Any, near: Any, sight: Any, step: int, first: int, last: int) -> None:
    """Set the pixels of some rows halfway between those of a grid twice as coarse as `step`.

    Where those around it are alike it is their mean, else it has a ray; near liquid it takes single pixels for that.
    """
    height, width, wide = image.shape[0], image.shape[1], 2 * step
    out, work = np.zeros(3), np.zeros(3)
    for row in range(first, last, step):
        down = row % wide
        for col in range(0 if down else step, width, step if down else wide):
            across = col % wide
            if row + down >= height or col + across >= width:
                take(image, near, sight, row, col, out, work)
                continue
            up, low, left, right = row - down, row + down, col - across, col + across
            touched = near[up, left] or near[up, right] or near[low, left] or near[low, right]
            if (touched and step > 1) or not agree(image, up, low, left, right, out):
                take(image, near, sight, row, col, out, work)
                continue
            near[row, col] = touched
            for c in range(3):
                image[row, col, c] = out[c]


@jit
def agree(image: Any, up: int, low: int, left: int, right: int, out: Any) -> bool:
    """Whether the corners of a rectangle of pixels differ by no more than SMOOTH; their mean into out[0:3]."""
    for c in range(3):
        one, two, three, four = image[up, left, c], image[up, right, c], image[low, left, c], image[low, right, c]
        out[c] = 0.25 * (one + two + three + four)
        if max(one, two, three, four) - min(one, two, three, four) > SMOOTH * (0.05 + out[c]):
            return False
    return True


@jit
def refine(image: Any, first_look: Any, sight: Any, rays: int, first: int, last: int) -> None:
    """More rays, through the whole lens and flash, for each pixel of some rows that differs from those around."""
    height, width = image.shape[0], image.shape[1]
    out, work = np.zeros(3), np.zeros(3)
    for row in range(max(first, 1), min(last, height - 1)):
        at = row * 7919
        for col in range(1, width - 1):
            contrast = 0.0
            for c in range(3):
                here = first_look[row, col, c]
                across = abs(here - first_look[row, col + 1, c]) + abs(here - first_look[row, col - 1, c])
                along = abs(here - first_look[row + 1, col, c]) + abs(here - first_look[row - 1, col, c])
                contrast = max(contrast, (across + along) / (0.1 + here))
            if contrast < ROUGH:
                continue
            for c in range(3):
                image[row, col, c] = min(image[row, col, c], 4.0)
            for _ in range(rays):
                at = (at + 1) % sight.jitter.shape[0]
                j = sight.jitter[at]
                shoot(sight, image, row + j[1], col + j[0], j[4], j[2], j[3], out, work)
                for c in range(3):
                    image[row, col, c] += min(out[c], 4.0)
            for c in range(3):
                image[row, col, c] /= rays + 1.0


def develop(
    scenes: Any, look: Any, geometry: Any, width: int, height: int, pitch: float, jitter: Any, rays: int
) -> Iterator[NDArray[np.float32] | None]:
    """Make a picture in linear RGB, from coarse to fine; the arguments as in `Sight`.

    rays : how many more rays a pixel of an edge gets.

    Yields None between bands, and a look at the picture after each level: every fourth pixel, every second, all, and
    at last all of shape (height, width, 3) with their edges smooth, blurred by motion and lens.
    """
    image, near = np.zeros((height, width, 3), dtype=np.float32), np.zeros((height, width), dtype=np.bool_)
    clear, among = approach_all(scenes, geometry, width, height, pitch)
    sight = Sight(scenes, look, geometry, pitch, jitter, clear, among)
    edges = [COARSE * round(height * band / BANDS / COARSE) for band in range(BANDS)] + [height]
    bands = list(pairwise(edges))
    for band in bands:
        sketch(image, near, sight, *band)
        yield None
    yield image[::COARSE, ::COARSE]
    step = COARSE // 2
    while step:
        for band in bands:
            fill(image, near, sight, step, *band)
            yield None
        yield image[::step, ::step]
        step //= 2
    first_look = image.copy()
    for band in bands:
        refine(image, first_look, sight, rays, *band)
        yield None
    yield image
