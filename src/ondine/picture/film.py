"""Which rays make a picture, compiled: one for each pixel, fewer where it is smooth, more where it is rough."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np

from ondine.picture.distance import jit, parts_near
from ondine.picture.tracer import approach, radiance, span

TILE = 8
"""Pixels along a side of the tiles whose rays share their way through the air."""

SMOOTH = 0.08
"""Where the neighbours of a pixel differ by less than this share, it is their mean."""

ROUGH = 0.5
"""Contrast with the neighbours that counts as an edge."""


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
    clear, among = (
        sight.clear[int(row) // TILE, int(col) // TILE, k],
        sight.among[int(row) // TILE, int(col) // TILE, k],
    )
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
                wide = 0.87 * TILE * pitch + geometry[4] * s[21] / geometry[0]
                clear[row, col, k], among[row, col, k] = approach(s, x, y, z, dx, dy, dz, wide)
    return clear, among


@jit
def meets(sight: Any, image: Any, row: float, col: float, k: int) -> bool:
    """Whether a camera ray comes near any liquid at an instant on its own way, before any mirror."""
    s, among = sight.scenes[k], sight.among[int(row) // TILE, int(col) // TILE, k]
    if among == 0 and s[0] == 0.0:
        return False
    u = (col - image.shape[1] / 2) * sight.pitch
    v = (image.shape[0] / 2 - row) * sight.pitch
    x, y, z, dx, dy, dz = camera_ray(sight.geometry, u, v, 0.0, 0.0)
    near, far = span(s, x, y, z, dx, dy, dz, 0.0)
    return far > near and (s[0] != 0.0 or parts_near(s, x, y, z, dx, dy, dz, among, 0.0) != 0)


@jit
def expose_half(image: Any, sight: Any) -> Any:
    """Give every second pixel its ray, as on a chequerboard; a block with only sheet and open pool has one for all.

    Returns which blocks of two by two pixels hold more than that, shape (height / 2, width / 2).
    """
    height, width, last = image.shape[0], image.shape[1], sight.scenes.shape[0] - 1
    out, work = np.zeros(3), np.zeros(3)
    rich = np.zeros((height // 2, width // 2), dtype=np.bool_)
    at = 0
    for row in range(0, height, 2):
        for col in range(0, width, 2):
            # First and last instant: what moves while the flash burns is near the ray at one of them.
            near = meets(sight, image, row + 1, col + 1, 0) or meets(sight, image, row + 1, col + 1, last)
            if not near:
                at = (at + 1) % sight.jitter.shape[0]
                near = shoot(sight, image, row + 1, col + 1, sight.jitter[at, 4], 0.0, 0.0, out, work)
            rich[row // 2, col // 2] = near
            for i in range(0, 4, 3 if near else 1):
                r, q = row + i // 2, col + i % 2
                if near:
                    at = (at + 1) % sight.jitter.shape[0]
                    shoot(sight, image, r + 0.5, q + 0.5, sight.jitter[at, 4], 0.0, 0.0, out, work)
                for c in range(3):
                    image[r, q, c] = out[c]
    return rich


@jit
def expose_rest(image: Any, sight: Any, rich: Any) -> None:
    """Give the other pixels of the rich blocks their ray where their neighbours differ, else their neighbours' mean."""
    height, width = image.shape[0], image.shape[1]
    out, work = np.zeros(3), np.zeros(3)
    at = 0
    for row in range(height):
        for col in range(1 - row % 2, width, 2):
            if not rich[row // 2, col // 2]:
                continue
            inside = 0 < row < height - 1 and 0 < col < width - 1
            if not (inside and agree(image, row, col, out)):
                at = (at + 1) % sight.jitter.shape[0]
                shoot(sight, image, row + 0.5, col + 0.5, sight.jitter[at, 4], 0.0, 0.0, out, work)
            for c in range(3):
                image[row, col, c] = out[c]


@jit
def agree(image: Any, row: int, col: int, out: Any) -> bool:
    """Whether the four neighbours of a pixel differ by no more than SMOOTH; their mean into out[0:3]."""
    for c in range(3):
        up, down = image[row - 1, col, c], image[row + 1, col, c]
        left, right = image[row, col - 1, c], image[row, col + 1, c]
        out[c] = 0.25 * (up + down + left + right)
        if max(up, down, left, right) - min(up, down, left, right) > SMOOTH * (0.05 + out[c]):
            return False
    return True


@jit
def refine(image: Any, sight: Any) -> None:
    """Two more rays through the whole lens for each pixel that differs much from its neighbours."""
    height, width = image.shape[0], image.shape[1]
    out, work = np.zeros(3), np.zeros(3)
    first = image.copy()
    at = 0
    for row in range(1, height - 1):
        for col in range(1, width - 1):
            contrast = 0.0
            for c in range(3):
                here = first[row, col, c]
                across = abs(here - first[row, col + 1, c]) + abs(here - first[row, col - 1, c])
                along = abs(here - first[row + 1, col, c]) + abs(here - first[row - 1, col, c])
                contrast = max(contrast, (across + along) / (0.1 + here))
            if contrast < ROUGH:
                continue
            for _ in range(2):
                at = (at + 1) % sight.jitter.shape[0]
                j = sight.jitter[at]
                shoot(sight, image, row + j[1], col + j[0], j[4], j[2], j[3], out, work)
                for c in range(3):
                    image[row, col, c] += min(out[c], 4.0)
            for c in range(3):
                image[row, col, c] /= 3.0


@jit
def render(scenes: Any, look: Any, geometry: Any, width: int, height: int, pitch: float, jitter: Any) -> Any:
    """Render linear RGB of shape (height, width, 3), both even; the rest as in `Sight`."""
    image = np.zeros((height, width, 3), dtype=np.float32)
    clear, among = approach_all(scenes, geometry, width, height, pitch)
    sight = Sight(scenes, look, geometry, pitch, jitter, clear, among)
    expose_rest(image, sight, expose_half(image, sight))
    refine(image, sight)
    return image
