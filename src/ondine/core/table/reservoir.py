"""The reservoir sinks with every shot, and the drops shrink with it."""

from __future__ import annotations

import math

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.constants import US_PER_S
from ondine.core.setup import Setup, Valve
from ondine.core.timing.sequence import Sequence

REFILL_AT_SHARE = 0.03
"""Refill when a drop has lost this share of its volume: a hundredth of its diameter."""


def discharge_coefficient(valve: Valve) -> float:
    """Share of the ideal Torricelli flow A·√(2·g·head) that the valve lets through [1]."""
    area = math.pi / 4 * valve.orifice_diameter_m**2
    return valve.flow_m3_s / (area * math.sqrt(2 * G * valve.head_m))


def flowing_s(setup: Setup, number: int, sequence: Sequence) -> float:
    """Time that liquid flows from a valve in one shot: open times less dead times [s], never quite nothing."""
    dead_s, opens = setup.valve(number).dead_time_s, [p.open_us for p in sequence.drops if p.valve == number]
    return max(sum(max(open_us / US_PER_S - dead_s, 1e-6) for open_us in opens), 1e-6)


def head_after_m(valve: Valve, open_s: float) -> float:
    """Liquid over the orifice after the valve was open for a time in all [s]; [m], not below zero.

    Torricelli: the flow goes with √head, so √head sinks evenly with the time that the valve is open.
    """
    area = math.pi / 4 * valve.reservoir_diameter_m**2
    root = math.sqrt(valve.head_m) - valve.flow_m3_s * open_s / (2 * area * math.sqrt(valve.head_m))
    return max(root, 0.0) ** 2


def flow_after_share(valve: Valve, open_s: float) -> float:
    """Flow after the valve was open for a time in all [s], as a share of the flow when full [1]."""
    return math.sqrt(head_after_m(valve, open_s) / valve.head_m)


def shots_until_refill(valve: Valve, open_per_shot_s: float, open_so_far_s: float = 0.0) -> int:
    """How many more shots keep the drops within 3 % of their volume.

    open_per_shot_s : time that one shot opens the valve in all [s]; open_so_far_s : since the last filling [s].
    """
    area = math.pi / 4 * valve.reservoir_diameter_m**2
    open_until_s = REFILL_AT_SHARE * 2 * area * valve.head_m / valve.flow_m3_s
    return max(0, math.floor((open_until_s - open_so_far_s) / open_per_shot_s + 1e-9))
