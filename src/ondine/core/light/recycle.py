"""How soon a unit is ready again, how many frames it gives in a burst, and when it gets hot."""

from __future__ import annotations

import math

from ondine.core.setup.light import Flash

HOT_FULL_FLASHES = 20.0
"""Full-power flashes in quick succession after which makers ask for a rest. Common practice, no published source."""

COOLS_PER_S = 1 / 30
"""How many of them a unit gets rid of in a second. Common practice: ten minutes after twenty."""


def full_recycle_s(flash: Flash) -> float:
    """Time to recycle after a full flash, with the batteries as they are [s]."""
    return flash.recycle_full_s / flash.battery


def recycle_s(flash: Flash, power: float | None = None) -> float:
    """Time until a unit is ready after a flash at a power: it refills only what it gave, p·T. Returns [s].

    A unit that lowers its voltage gives what it holds at that power, and refills that.
    """
    return full_recycle_s(flash) * (flash.power if power is None else power)


def burst_frames(flash: Flash, interval_s: float, power: float | None = None) -> float:
    """How many frames a full unit gives at an interval [s] before one comes too dark; infinite if it keeps up.

    Each takes a share p of the charge, each interval gives back interval/T.
    """
    share = flash.power if power is None else power
    loss = share - interval_s / full_recycle_s(flash)
    if loss <= 1e-9:
        return math.inf
    return 1 + math.floor((1 - share) / loss + 1e-9)


def frames_until_hot(flash: Flash, interval_s: float, power: float | None = None) -> float:
    """How many frames at an interval [s] heat a cool unit until it wants a rest; infinite if it cools as fast."""
    share = flash.power if power is None else power
    gain = share - interval_s * COOLS_PER_S
    return math.inf if gain <= 1e-9 else math.ceil(HOT_FULL_FLASHES / gain)


def burst_words(flash: Flash, interval_s: float) -> str:
    """Say what a burst at an interval will run into."""
    frames, hot = burst_frames(flash, interval_s), frames_until_hot(flash, interval_s)
    ready = recycle_s(flash)
    says = f"{flash.name} is ready {ready * 1e3:.0f} ms after each flash."
    if math.isinf(frames):
        says += f" One frame each {interval_s:g} s goes on as long as you like."
    else:
        says += f" At one each {interval_s:g} s the first {frames:.0f} are lit in full; wait {ready:.1f} s."
    if not math.isinf(hot):
        says += f" After {hot:.0f} frames it is hot: let it rest ten minutes."
    return says
