"""Tidal Mill: its table, its light, and the season of sittings that its logbook tells."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

from ondine.core.setup import (
    Bowl,
    Camera,
    DurationPoint,
    Flash,
    Light,
    Mix,
    Place,
    Setup,
    Triggers,
    Valve,
)
from ondine.core.table.edit import with_magnification
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.picture.look import Look

SEASON = Path(__file__).parent / "season"
BELIEFS = SEASON / "beliefs.json"
"""What was believed in the course of the season, by name."""

NOW = "now: "
"""Before the name of a table: what is believed there after the whole season."""

SEED = 20
"""The hidden rig that the demo's bench simulates."""


def _manual(*rows: tuple[int, int]) -> tuple[DurationPoint, ...]:
    """Durations as a manual lists them: (1/power, 1/seconds)."""
    return tuple(DurationPoint(1 / power, 1 / per_second) for power, per_second in rows)


TIDAL_MILL = Setup(
    name="Tidal Mill",
    valves=(
        Valve(
            nozzle_height_m=0.365,
            orifice_diameter_m=1.8e-3,
            flow_m3_s=2.63e-6,
            flow_sd_m3_s=0.02e-6,
            dead_time_s=2.8e-3,
            dead_time_sd_s=0.15e-3,
        ),
    ),
    bowl=Bowl(diameter_m=0.26, depth_m=0.045, landing_m=0.02, tint="#2f6b57"),
    mix=Mix(glycerine_mass_fraction=0.15, dye_mass_fraction=0.01, temperature_c=19.0, tint="#8c1c3a"),
    camera=Camera(name="Body A", magnification=0.40, focal_length_m=0.090, f_number=16.0, iso=200, front_guard=True),
    triggers=Triggers(radio=True),
    light=Light(
        (
            Flash(
                "Unit A",
                power=1 / 64,
                place=Place.BEHIND,
                x_m=-0.40,
                height_m=0.16,
                losses_stops=2.0,
                recycle_full_s=12.0,
                durations=_manual((1, 980), (4, 2_940), (16, 10_600), (64, 27_800), (128, 40_000)),
            ),
            Flash(
                "Unit B",
                power=1 / 64,
                place=Place.SIDE,
                x_m=0.12,
                height_m=0.24,
                aside_m=0.35,
                guard=True,
                guide_number_m=28.0,
                recycle_full_s=12.0,
                losses_stops=1.0,
            ),
        ),
        background_tint="#5bbcb4",
    ),
)

MILL_RACE = replace(
    TIDAL_MILL,
    name="Mill race, two valves",
    valves=(
        replace(TIDAL_MILL.valves[0], aside_m=-0.014),
        replace(TIDAL_MILL.valves[0], name="Valve B", aside_m=0.014, nozzle_height_m=0.33),
    ),
    camera=replace(TIDAL_MILL.camera, magnification=0.32, exposure_s=0.5),
    light=replace(TIDAL_MILL.light, units=(TIDAL_MILL.light.units[0], replace(TIDAL_MILL.light.units[1], output=1))),
)
"""Two valves whose splashes stand beside each other, each lit by a flash of its own."""

ONE_SPOT = replace(
    MILL_RACE,
    name="Two valves, one spot",
    valves=tuple(replace(valve, aside_m=0.0) for valve in MILL_RACE.valves),
    light=TIDAL_MILL.light,
)
"""The second valve lets its drop fall into the umbrella of the first one's: sooner than one valve could."""

LOW = replace(TIDAL_MILL, valves=(replace(TIDAL_MILL.valves[0], nozzle_height_m=0.22),))

NAMED = {
    "Tidal Mill": TIDAL_MILL,
    "Low and gentle": LOW,
    "Low, by wire": replace(LOW, triggers=Triggers()),
    "Mill race, two valves": MILL_RACE,
    "Two valves, one spot": ONE_SPOT,
    "Thick drops": replace(TIDAL_MILL, mix=replace(TIDAL_MILL.mix, glycerine_mass_fraction=0.45)),
    "Wide, for cropping": replace(
        TIDAL_MILL, camera=with_magnification(TIDAL_MILL.camera, 0.25), light=Light((Flash(power=1 / 32),))
    ),
}
"""Set-ups that the season kept under a name."""

WEIGHED = (
    {"open_us": 15_000, "pulses": 50, "grams": 1.67},
    {"open_us": 25_000, "pulses": 40, "grams": 2.41},
    {"open_us": 40_000, "pulses": 30, "grams": 3.03},
)
"""What the scale of the season read; the flow of `TIDAL_MILL` agrees with it within its error."""

PLACE = "Mill loft"
REFILL_EVERY = 25

ONE = (Pulse(0, 22_000),)
PAIR = (Pulse(0, 22_000), Pulse(95_000, 22_000))
START = Sequence.with_one_flash(PAIR, 356_000)

RACE = Sequence(
    (Pulse(0, 22_000), Pulse(30_000, 22_000, 1), Pulse(95_000, 22_000), Pulse(121_000, 20_000, 1)),
    (FlashPulse(356_000), FlashPulse(367_000, 1)),
)
"""A pair from each of two valves, and a flash for each umbrella."""

SAND = Look(low=(0.30, 0.20, 0.12), high=(0.16, 0.13, 0.13), glow=(1.0, 0.90, 0.70))
LAKE = Look()
DAWN = Look(low=(0.24, 0.26, 0.16), high=(0.10, 0.16, 0.14), glow=(1.0, 0.95, 0.78))
DUSK = Look(low=(0.16, 0.10, 0.26), high=(0.05, 0.05, 0.16), glow=(1.0, 0.72, 0.62))


@dataclass(frozen=True)
class Shot:
    """One shot of the season; `table` is its set-up's name in `NAMED`."""

    sequence: Sequence
    note: str = ""
    table: str = "Tidal Mill"


@dataclass(frozen=True)
class SittingPlan:
    """One sitting: its name, beginning, light, and shots; or a table at which the coach proposed `coached` of them."""

    name: str
    starts: datetime
    look: Look
    shots: tuple[Shot, ...] = ()
    table: str = "Tidal Mill"
    coached: int = 0


def _single(flash_ms: float, open_ms: float = 22, note: str = "") -> Shot:
    return Shot(Sequence.with_one_flash((Pulse(0, round(open_ms * 1000)),), round(flash_ms * 1000)), note)


def _pair(interval_ms: float, flash_ms: float, open_ms: float = 22, note: str = "") -> Shot:
    second = Pulse(round(interval_ms * 1000), round(open_ms * 1000))
    return Shot(Sequence.with_one_flash((ONE[0], second), round(flash_ms * 1000)), note)


def _into_umbrella(third_ms: float, flash_ms: float) -> Shot:
    third = Pulse(round(third_ms * 1000), 18_000, 1)
    return Shot(Sequence.with_one_flash((*PAIR, third), round(flash_ms * 1000)), table="Two valves, one spot")


def _race(later_ms: float, note: str = "") -> Shot:
    flashes = tuple(replace(flash, at_us=flash.at_us + round(later_ms * 1000)) for flash in RACE.flashes)
    return Shot(replace(RACE, flashes=flashes), note, "Mill race, two valves")


def season() -> tuple[SittingPlan, ...]:
    """Return the four sittings, 136 shots in all. For the third the nozzle came down and a wire took the place of the
    radio: the coach found the umbrella.
    """
    first = [_single(235 + 5 * i) for i in range(14)]
    first += [_single(310 + 8 * i) for i in range(22)]
    first += [_single(500 + 20 * i) for i in range(4)]
    first[0] = _single(235, note="first drop of the season")
    second = [_pair(80, 335 + 5 * i) for i in range(4)]
    second += [_pair(45, 300 + 6 * i, note="too early, into the crater" if i == 2 else "") for i in range(4)]
    second += [_pair(95, 340 + 1.5 * i) for i in range(20)]
    second += [_pair(30, 320 + 15 * i, note="gap too short" if i == 0 else "") for i in range(3)]
    second += [_pair(95, 353 + 0.5 * i, note="for print 3" if i == 4 else "") for i in range(10)]
    third = [_into_umbrella(106 + 0.2 * i, 353 + 1.2 * i) for i in range(8)]
    third += [_race(1.2 * i - 3, note="a flash for each umbrella" if i == 3 else "") for i in range(6)]
    third += [_pair(92 + 2 * i, 352 + 1.6 * i) for i in range(10)]
    third += [_pair(98, 352 + i, open_ms=26) for i in range(12)]
    third += [_pair(95, 354 + 0.5 * i, note="for the foyer" if i == 3 else "") for i in range(9)]
    return (
        SittingPlan("One drop, sand light", datetime(2026, 3, 14, 17, 40, tzinfo=UTC), SAND, tuple(first)),
        SittingPlan("Two drops, lake light", datetime(2026, 4, 11, 18, 5, tzinfo=UTC), LAKE, tuple(second)),
        SittingPlan(
            "Lower nozzle, with the coach",
            datetime(2026, 4, 25, 18, 30, tzinfo=UTC),
            DAWN,
            table="Low, by wire",
            coached=10,
        ),
        SittingPlan("Variations, dusk light", datetime(2026, 5, 9, 19, 20, tzinfo=UTC), DUSK, tuple(third)),
    )


CADENCE = timedelta(seconds=41)
"""From shot to shot: long enough for the water to lie still."""
