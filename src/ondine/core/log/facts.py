"""A shot in figures: what was commanded, what its table was like, and where its flash lies in the time of flight."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from ondine.core.forecast.plan import Plan
from ondine.core.forecast.whole import forecast
from ondine.core.physics.liquid import LiquidError
from ondine.core.physics.splash import crater_clock_s
from ondine.core.setup import Mix, Setup
from ondine.core.timing.sequence import Sequence

FACTS_VERSION = 1
"""Counts the changes of what is told here: facts of an earlier count are told anew."""

LEAST_SHARE = 0.5
"""What happens on fewer of the rigs that are believed in is no time to count from."""


@dataclass(frozen=True)
class Facts:
    """The figures of one shot, by the keys of `quantities`; None where there is none.

    `touchdown_sd_ms`, `meeting_sd_ms` : how well those two times were known when the shot was fired [ms].
    """

    drops: int
    interval_ms: float | None = None
    gap_ms: float | None = None
    open_ms: float | None = None
    second_open_ms: float | None = None
    flash_ms: float | None = None
    after_touchdown_ms: float | None = None
    touchdown_sd_ms: float | None = None
    after_meeting_ms: float | None = None
    meeting_sd_ms: float | None = None
    crater_clocks: float | None = None
    size_ratio: float | None = None
    diameter_mm: float | None = None
    height_mm: float | None = None
    head_mm: float | None = None
    viscosity_mpa_s: float | None = None
    temperature_c: float | None = None
    power: float | None = None
    f_number: float | None = None
    iso: float | None = None
    exposure_ms: float | None = None


NAMES = tuple(known.name for known in fields(Facts))


@dataclass(frozen=True)
class Flight:
    """What a forecast tells of some drops, whatever light falls on them; None where it tells nothing."""

    touchdown_ms: float | None = None
    touchdown_sd_ms: float | None = None
    meeting_ms: float | None = None
    meeting_sd_ms: float | None = None
    clock_ms: float | None = None
    diameter_mm: float | None = None
    size_ratio: float | None = None


def flight_of(plan: Plan) -> Flight:
    """Foresee the drops of a plan; nothing is told of a liquid that no formula covers."""
    if not plan.sequence.drops:
        return Flight()
    try:
        what = forecast(plan.setup, plan.belief, Sequence(plan.sequence.drops, ()))
    except LiquidError:
        return Flight()
    made, sizes = what.splashes, what.falls.diameter_m[:, 0] * 1e3
    first = int(np.argmin(np.nan_to_num(made.touchdown_s[:, 0], nan=np.inf)))
    clock_ms = float(crater_clock_s(made.crater_m[first, 0])) * 1e3
    return Flight(
        *_first(made.touchdown_s),
        *_first(what.meetings.stops_s),
        clock_ms if np.isfinite(clock_ms) and clock_ms > 0 else None,
        float(sizes[0]),
        float(sizes[1] / sizes[0]) if len(sizes) > 1 and sizes[0] > 0 else None,
    )


def _first(times_s: NDArray[np.float64]) -> tuple[float | None, float | None]:
    """Mean and standard deviation over the rigs of the earliest of some times, shape (k, n) [s]; returns [ms]."""
    known = np.isfinite(times_s)
    some = known.any(axis=0)
    if some.mean() < LEAST_SHARE:
        return None, None
    earliest = np.where(known, times_s, np.inf).min(axis=0)[some] * 1e3
    return float(earliest.mean()), float(earliest.std())


def facts_of(plan: Plan, flight: Flight, head_m: float | None = None) -> Facts:
    """Return a shot's figures.

    flight : what its drops do, of `flight_of`, which many shots share; head_m : the reservoir's level then [m].
    """
    sequence, setup = plan.sequence, plan.setup
    drops = sequence.drops
    flash_ms = sequence.first_flash_us / 1e3 if sequence.flashes else None
    after = None if flash_ms is None or flight.touchdown_ms is None else flash_ms - flight.touchdown_ms
    met = None if flash_ms is None or flight.meeting_ms is None else flash_ms - flight.meeting_ms
    mix = setup.mix_of(drops[0].valve) if drops else setup.mix
    unit = setup.light.units[0] if setup.light.units else None
    return Facts(
        drops=len(drops),
        interval_ms=(drops[1].start_us - drops[0].start_us) / 1e3 if len(drops) > 1 else None,
        gap_ms=(drops[1].start_us - drops[0].end_us) / 1e3 if len(drops) > 1 else None,
        open_ms=drops[0].open_us / 1e3 if drops else None,
        second_open_ms=drops[1].open_us / 1e3 if len(drops) > 1 else None,
        flash_ms=flash_ms,
        after_touchdown_ms=after,
        touchdown_sd_ms=flight.touchdown_sd_ms,
        after_meeting_ms=met,
        meeting_sd_ms=flight.meeting_sd_ms,
        crater_clocks=None if after is None or flight.clock_ms is None else after / flight.clock_ms,
        size_ratio=flight.size_ratio,
        diameter_mm=flight.diameter_mm,
        height_mm=setup.nozzle_height_m * 1e3,
        head_mm=None if head_m is None else head_m * 1e3,
        viscosity_mpa_s=_viscosity(mix),
        temperature_c=mix.temperature_c,
        power=None if unit is None else unit.power,
        f_number=setup.camera.f_number,
        iso=setup.camera.iso,
        exposure_ms=setup.camera.exposure_s * 1e3,
    )


def _viscosity(mix: Mix) -> float | None:
    try:
        return mix.liquid().viscosity_pa_s * 1e3
    except LiquidError:
        return None


LIQUIDS = {
    "glycerine_mass_fraction": "glycerine",
    "milk_mass_fraction": "milk",
    "cream_mass_fraction": "cream",
    "gum_mass_fraction": "gum",
    "dye_mass_fraction": "dye",
}


def setup_words(setup: Setup) -> str:
    """Return the words that a set-up is found by: its name, what falls, and what its parts are called."""
    mixes = [setup.mix, *(valve.liquid for valve in setup.valves if valve.liquid is not None)]
    liquids = [word for name, word in LIQUIDS.items() if any(getattr(mix, name) for mix in mixes)]
    units = [unit.name for unit in setup.light.units]
    named = [setup.name, "water", *liquids, setup.camera.name, *units]
    return " ".join(dict.fromkeys(word for word in named if word))
