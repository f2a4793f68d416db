"""Stops: the series that dials go in, exact inside and nominal outside, and exposure values.

Exact values are powers of two; dials print rounded ones. ISO 517 (apertures), ISO 12232 (speed);
numbers of the standards from memory.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ondine.core.setup.light import Step

INCIDENT_C = 250.0
"""Calibration of a flat meter of incident light [lx·s·ISO], ISO 2720."""

_APERTURES = (
    "1 1.1 1.2 1.4 1.6 1.8 2 2.2 2.5 2.8 3.2 3.5 4 4.5 5 5.6 6.3 7.1 8 9 10 11 13 14 16 18 20 22 25 29 32 36 40 "
    "45 51 57 64"
)
_HALF_APERTURES = "1 1.2 1.4 1.7 2 2.4 2.8 3.3 4 4.8 5.6 6.7 8 9.5 11 13 16 19 22 27 32 38 45 54 64"
_SPEEDS = "50 64 80 100 125 160 200 250 320 400 500 640 800 1000 1250 1600 2000 2500 3200 4000 5000 6400"


@dataclass(frozen=True)
class Mark:
    """One click of a dial: what is printed, and the exact value behind it."""

    label: str
    value: float


def apertures(step: Step = Step.THIRD) -> tuple[Mark, ...]:
    """F-numbers from 1 to 64: exact value 2^(n/2)."""
    if step is Step.HALF:
        return tuple(Mark(label, 2 ** (i / 4)) for i, label in enumerate(_HALF_APERTURES.split()))
    thirds = tuple(Mark(label, 2 ** (i / 6)) for i, label in enumerate(_APERTURES.split()))
    return thirds if step is Step.THIRD else thirds[::3]


def speeds(step: Step = Step.THIRD) -> tuple[Mark, ...]:
    """ISO speeds from 50 to 6400: exact value 100·2^n."""
    thirds = tuple(Mark(label, 100 * 2 ** ((i - 3) / 3)) for i, label in enumerate(_SPEEDS.split()))
    return thirds if step is not Step.FULL else thirds[::3]


def powers(least: float, step: Step = Step.THIRD, most: float = 1.0) -> tuple[Mark, ...]:
    """Powers of a unit from `most` down to `least`, fractions of full [1]."""
    clicks = round(math.log2(most / least) * step.per_stop)
    return tuple(
        Mark(power_label(most * 2 ** (-i / step.per_stop)), most * 2 ** (-i / step.per_stop)) for i in range(clicks + 1)
    )


def power_label(power: float) -> str:
    """Write a power as units print it: a full-stop fraction, and thirds or halves above it, as in "1/64 + 1/3"."""
    stops = math.log2(power)
    base = math.floor(stops + 1e-6)
    rest = stops - base
    for known, words in ((0.0, ""), (1 / 3, " + 1/3"), (0.5, " + 1/2"), (2 / 3, " + 2/3")):
        if abs(rest - known) < 0.02:
            return f"1/{round(2**-base)}{words}" if base < 0 else "1"
    return f"1/{1 / power:.3g}"


def nearest(marks: tuple[Mark, ...], value: float) -> Mark:
    """Return the click nearest in stops to a value over zero."""
    return min(marks, key=lambda mark: abs(math.log2(mark.value / value)))


def stops_words(stops: float) -> str:
    """Write stops as photographers do, in thirds: "+1 1/3", "−2/3", "0"."""
    thirds = round(stops * 3)
    sign = "−" if thirds < 0 else "+" if thirds > 0 else ""
    whole, rest = divmod(abs(thirds), 3)
    parts = [str(whole)] if whole or not rest else []
    if rest:
        parts.append(f"{rest}/3")
    return sign + " ".join(parts)


def exposure_value(f_number: float, exposure_s: float, iso: float = 100.0) -> float:
    """EV at ISO 100, log2(N²/t) - log2(S/100). exposure_s : [s]. APEX Av + Tv, ISO 2720."""
    return math.log2(f_number**2 / exposure_s) - math.log2(iso / 100)


def illuminance_lx(ev100: float) -> float:
    """Light falling in that an exposure value at ISO 100 is right for, 2^EV·C/100, C = 250. Returns [lx]."""
    return float(2**ev100 * INCIDENT_C / 100)
