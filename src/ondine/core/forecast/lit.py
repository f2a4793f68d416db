"""Which units light at each flash of a sequence, for how long, and with what share of the picture's light."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.constants import US_PER_S
from ondine.core.light.exposure import unit_on_subject
from ondine.core.light.flash import duration_of
from ondine.core.light.recycle import recycle_s
from ondine.core.setup import FlashFiredBy, Setup
from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Lit:
    """What lights at one flash: numbers of the `units` that are ready, and of those that are `not_ready`.

    `duration_s` : t0.5 of the slowest of the ready ones, a slave's lag included [s], zero if none lights;
    `share` : part of all the light that the splash gets in this picture [1].
    """

    units: tuple[int, ...]
    not_ready: tuple[int, ...]
    slaves: tuple[int, ...]
    duration_s: float
    share: float


@dataclass(frozen=True)
class UnitLight:
    """What one unit, by its number, gives to a picture: the `flashes` at which it lights, those that it has `missed`
    since it had not recycled, and its `share` of the light that the splash gets [1].
    """

    unit: int
    flashes: tuple[int, ...]
    missed: tuple[int, ...]
    share: float


def unit_lights(setup: Setup, found: tuple[Lit, ...]) -> tuple[UnitLight, ...]:
    """Return what each unit gives, from what lights at each flash."""
    units = setup.light.units
    flashes = [tuple(n for n, one in enumerate(found) if unit in one.units) for unit in range(len(units))]
    missed = [tuple(n for n, one in enumerate(found) if unit in one.not_ready) for unit in range(len(units))]
    amounts = [unit_on_subject(unit) * len(at) for unit, at in zip(units, flashes, strict=True)]
    total = sum(amounts)
    return tuple(
        UnitLight(n, flashes[n], missed[n], amounts[n] / total if total > 0 else 0.0) for n in range(len(units))
    )


def times_lit(setup: Setup, sequence: Sequence) -> tuple[int, ...]:
    """Return how often each unit lights in the picture of a sequence."""
    return tuple(len(one.flashes) for one in unit_lights(setup, lit(setup, sequence)))


def lit(setup: Setup, sequence: Sequence) -> tuple[Lit, ...]:
    """Return what lights at each flash, in the order of the sequence.

    A unit lights when its output fires; an optical slave whenever it sees another unit light. Neither does before it
    has recycled from its flash before.
    """
    light, by_camera = setup.light, setup.triggers.flash_fired_by is FlashFiredBy.CAMERA
    ready_s = [-1.0] * len(light.units)
    found: dict[int, tuple[list[int], list[int]]] = {}
    for index in sorted(range(len(sequence.flashes)), key=lambda i: sequence.flashes[i].at_us):
        flash = sequence.flashes[index]
        at_s = flash.at_us / US_PER_S
        fires: list[int] = []
        tired: list[int] = []
        slaves = [n for n, unit in enumerate(light.units) if unit.slave]
        told = [n for n, unit in enumerate(light.units) if by_camera or unit.output == flash.output]
        told = [n for n in told if n not in slaves]
        for n in told + slaves:
            if n in slaves and not fires:
                continue
            (fires if at_s >= ready_s[n] else tired).append(n)
        for n in fires:
            ready_s[n] = at_s + recycle_s(light.units[n])
        found[index] = fires, tired
    amounts = {index: sum(unit_on_subject(light.units[n]) for n in fires) for index, (fires, _) in found.items()}
    total = sum(amounts.values())
    return tuple(
        Lit(
            units=tuple(sorted(found[index][0])),
            not_ready=tuple(sorted(found[index][1])),
            slaves=tuple(n for n in sorted(found[index][0]) if light.units[n].slave),
            duration_s=_duration_s(setup, found[index][0]),
            share=amounts[index] / total if total > 0 else 0.0,
        )
        for index in range(len(sequence.flashes))
    )


def _duration_s(setup: Setup, units: list[int]) -> float:
    flashes = [setup.light.units[n] for n in units]
    longest = max((duration_of(unit, unit.power).half_s for unit in flashes), default=0.0)
    late = setup.triggers.slave_lag_s if any(unit.slave for unit in flashes) else 0.0
    return longest + late
