"""What the table will do, for the drawing: the first drop's fall, impact, crater and jet, with their spreads."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.events import Spread
from ondine.core.forecast.whole import Forecast
from ondine.core.light.depth import best_f_number, camera_depth_m
from ondine.core.physics.splash import NEAR_ENTRAINMENT, jet_top_m

Floats = NDArray[np.float64]

SPRAY_SPEED_SHARE = 0.6
"""How fast the fastest droplets of a crown leave, as a share of the impact speed. An estimate."""

BUBBLES_SHARE = 0.3
"""Where so many of the rigs may trap a bubble, it is said."""

FLOOR_REACH = 1.5
"""A bowl shallower than this many craters lets its floor be felt: crater and jet turn out smaller. An estimate."""


@dataclass(frozen=True)
class TableResults:
    """Lengths [m], times [s], speeds [m/s], energy [J]. Spreads come from the belief; None where nothing happens."""

    fall_s: Spread | None
    impact_m_s: Spread | None
    energy_j: float
    diameter_m: Spread | None
    volume_m3: float
    crater_m: Spread | None
    jet_m: Spread | None
    half_depth_m: float
    spray_reach_m: float
    warnings: tuple[tuple[str, str], ...]
    """(place on the drawing, sentence)."""


def table_results(what: Forecast) -> TableResults:
    """Read the results off a forecast, for its first drop."""
    falls, made = what.falls, what.splashes
    diameter = falls.diameter_m[0]
    impact = falls.impact_m_s[0]
    jet = jet_top_m(made.jet_m_s[0], made.jet_slows_m_s2[0])
    mean_volume = float(np.pi / 6 * diameter[0] ** 3) if np.isfinite(diameter[0]) else 0.0
    mean_impact = float(impact[0]) if np.isfinite(impact[0]) else 0.0
    half = _half_depth_m(what)
    reach = (SPRAY_SPEED_SHARE * mean_impact) ** 2 / G
    return TableResults(
        fall_s=_spread(falls.touchdown_s[0] - falls.release_s[0]),
        impact_m_s=_spread(impact),
        energy_j=0.5 * what.pool.density_kg_m3 * mean_volume * mean_impact**2,
        diameter_m=_spread(diameter),
        volume_m3=mean_volume,
        crater_m=_spread(made.crater_m[0]),
        jet_m=_spread(jet),
        half_depth_m=half,
        spray_reach_m=reach,
        warnings=tuple(_warnings(what, half, reach)),
    )


def _spread(values: Floats) -> Spread | None:
    known = values[np.isfinite(values)]
    if len(known) < len(values) / 2 or not np.isfinite(values[0]):
        return None
    return Spread(float(values[0]), float(known.std()))


def _half_depth_m(what: Forecast) -> float:
    """How far the widest thing that opens reaches before and behind the axis: sheet, crater, or the drop itself."""
    wide = [float(v) for v in what.meetings.widest_m[:, 0] if np.isfinite(v)]
    wide += [float(v) for v in (what.splashes.crater_m[0, 0], what.falls.diameter_m[0, 0] / 2) if np.isfinite(v)]
    return max(wide, default=5e-3)


def _warnings(what: Forecast, half_depth_m: float, reach_m: float) -> list[tuple[str, str]]:
    setup = what.setup
    found = []
    crater = float(what.splashes.crater_m[0, 0])
    if not np.isfinite(what.falls.diameter_m[0, 0]):
        return [("nozzle 0", "No drop falls: the valve is open no longer than its dead time. Open it longer.")]
    if not np.isfinite(what.splashes.jet_m_s[0, 0]):
        found.append(("water", "The drop hits too weakly for a jet. Raise the nozzle, or open the valve longer."))
    found += [("nozzle 0", says) for says in (_too_low(what), _traps_bubbles(what)) if says]
    if crater > setup.bowl.depth_m:
        found.append(("bowl", f"The crater of {crater * 1e3:.0f} mm reaches the floor. Take a deeper bowl."))
    elif FLOOR_REACH * crater > setup.bowl.depth_m:
        found.append(("bowl", "The floor is near the crater: jets come out lower than foreseen. Take a deeper bowl."))
    camera = setup.camera
    if camera.front_glass_m < reach_m and not camera.front_guard:
        found.append(("camera", f"Spray flies about {reach_m * 1e2:.0f} cm: guard the front glass, or step back."))
    for index, flash in enumerate(setup.light.units):
        if math.hypot(flash.x_m, flash.aside_m) < reach_m and not flash.guard:
            found.append(
                (f"flash {index}", f"Spray reaches {flash.name}: guard it, or move it away. It is mains or HV.")
            )
    deep = camera_depth_m(camera)
    if deep < half_depth_m:
        best = best_f_number(half_depth_m, camera.magnification, camera.pupil_ratio)
        found.append(
            (
                "camera",
                f"Only {deep * 1e3:.0f} mm of the {2 * half_depth_m * 1e3:.0f} mm splash are sharp: take f/{best:.0f}.",
            )
        )
    if setup.nozzle_height_m < camera.frame_top_m:
        found.append(("nozzle 0", "The nozzle hangs in the picture. Raise it, or go closer."))
    return found


def _too_low(what: Forecast) -> str:
    """Say that a drop reaches the water before it has let go."""
    falls = what.falls
    # A neck lets go so far under the outlet, and half a drop hangs below that.
    needs = falls.pinch_off_m[0, 0] + falls.diameter_m[0, 0] / 2
    if falls.height_m[0, 0] + falls.diameter_m[0, 0] / 2 > needs:
        return ""
    return (
        "The drop reaches the water before it has let go of the nozzle: nothing here is foreseen well. "
        f"Raise the nozzle to {math.ceil(needs * 1e3)} mm or more."
    )


def _traps_bubbles(what: Forecast) -> str:
    """Say that the first drop may trap a bubble: its crater then closes early."""
    share = float(np.mean(np.nan_to_num(what.splashes.outside_entrainment[0], nan=np.inf) < NEAR_ENTRAINMENT))
    if share < BUBBLES_SHARE:
        return ""
    return (
        f"Drops so small and slow may trap a bubble ({share:.0%}): then the crater closes early, and the jet is thin "
        "and fast. Open the valve longer, or move the nozzle."
    )
