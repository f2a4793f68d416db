"""What can be taken hold of on the drawing, where it is, and which fields of the set-up it moves."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.setup import Setup
from ondine.core.setup.fields import read

Edits = list[tuple[str, float]]


@dataclass(frozen=True)
class Handle:
    """A point on the table: its key and name, its spot, and the fields it moves across and up."""

    key: str
    name: str
    x_m: float
    height_m: float
    across: str = ""
    up: str = ""


def handles(setup: Setup) -> list[Handle]:
    """Return the handles of a table, from the top down."""
    bowl, camera = setup.bowl, setup.camera
    rim = bowl.diameter_m / 2
    middle = (camera.frame_top_m + camera.frame_foot_m) / 2
    found = []
    for i, valve in enumerate(setup.valves):
        stem, nozzle_m = f"valves.{i}", valve.nozzle_height_m
        # One valve stands over the landing spot; where there are more, each is carried to its own.
        several = len(setup.valves) > 1
        name = f" of {valve.name}" if several else ""
        found += [
            Handle(f"head {i}", f"Level of the liquid{name}", valve.x_m, nozzle_m + valve.head_m, up=f"{stem}.head_m"),
            Handle(
                f"nozzle {i}",
                f"Nozzle{name}",
                valve.x_m,
                nozzle_m,
                f"{stem}.x_m" if several else "",
                f"{stem}.nozzle_height_m",
            ),
        ]
    for i, flash in enumerate(setup.light.units):
        stem = f"light.units.{i}"
        found.append(Handle(f"flash {i}", flash.name, flash.x_m, flash.height_m, f"{stem}.x_m", f"{stem}.height_m"))
    return [
        *found,
        Handle("camera", camera.name, camera.front_glass_m, camera.height_m, "camera.front_glass_m", "camera.height_m"),
        Handle("aim", "Aim of the camera", 0.0, middle, up="camera.water_line_share"),
        Handle("landing", "Landing spot", -bowl.landing_m - 0.6 * rim, 0.0, across="bowl.landing_m"),
        Handle("rim", "Rim of the bowl", rim - bowl.landing_m, 0.0, across="bowl.diameter_m"),
        Handle("floor", "Floor of the bowl", rim * 0.55 - bowl.landing_m, -bowl.depth_m, up="bowl.depth_m"),
    ]


def moved(setup: Setup, handle: Handle, x_m: float, height_m: float) -> Edits:
    """Return the edits that bring a handle to a spot; what it cannot do is left out."""
    edits: Edits = []
    if handle.across:
        edits.append((handle.across, _across(setup, handle, x_m)))
    if handle.up:
        edits.append((handle.up, _up(setup, handle, height_m)))
    # A tenth of a millimetre is finer than any hand sets it.
    return [(path, value if "share" in path else round(value, 4)) for path, value in edits]


def nudged(setup: Setup, handle: Handle, right: int, up: int, step_m: float) -> Edits:
    """Return the edits of an arrow key: only along the way it points."""
    edits = moved(setup, handle, handle.x_m + right * step_m, handle.height_m + up * step_m)
    wanted = handle.across if right else handle.up
    return [(path, value) for path, value in edits if path == wanted and value != read(setup, path)]


def _across(setup: Setup, handle: Handle, x_m: float) -> float:
    bowl = setup.bowl
    if handle.key == "landing":
        return -(x_m + 0.6 * bowl.diameter_m / 2)
    if handle.key == "rim":
        return 2 * (x_m + bowl.landing_m)
    return x_m


def _up(setup: Setup, handle: Handle, height_m: float) -> float:
    if handle.key.startswith("head"):
        return height_m - setup.valve(int(handle.key.split()[1])).nozzle_height_m
    if handle.key == "aim":
        return 0.5 - height_m / setup.camera.frame_height_m
    if handle.key == "floor":
        return -height_m
    return height_m
