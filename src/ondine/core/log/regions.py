"""Which shape is likeliest where: the forecast's own map under the atlas, where both axes are timings of a sequence."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import sample_rigs
from ondine.core.forecast.plan import Plan
from ondine.core.forecast.shapes import BY_KEY, shape_probabilities
from ondine.core.forecast.whole import forecast
from ondine.core.log.facts import facts_of, flight_of
from ondine.core.timing.limits import MAX_DROPS
from ondine.core.timing.sequence import MAX_TIME_US, MIN_OPEN_US, FlashPulse, Sequence

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

STEPS = 28
RIGS = 48
LEAST_CHANCE = 0.3
"""Where nothing is likelier than this, nothing is drawn."""

MOST_SERIES = 12
"""A series from spot to spot has at most so many shots."""

FLASH = ("flash_ms", "after_touchdown_ms", "after_meeting_ms")
DROPS = ("interval_ms", "gap_ms", "open_ms", "second_open_ms")
SETTABLE = (*FLASH, *DROPS)
"""Figures that a sequence can be given: what stands for a spot of the atlas can be fired."""


@dataclass(frozen=True, eq=False)
class Regions:
    """The likeliest shape over two figures: `x` of shape (m,), `y` of shape (n,).

    `shape` : the place of its key in `keys`, −1 where none is likely; `chance` : how likely; both of shape (n, m).
    """

    x: Floats
    y: Floats
    shape: Ints
    chance: Floats
    keys: tuple[str, ...]


def with_figure(plan: Plan, key: str, value: float) -> Sequence | None:
    """Return the plan's sequence with one figure of another value; None where it cannot have it.

    key : of `SETTABLE`; value : in its unit, ms. What hangs on a touchdown or a meeting is foreseen.
    """
    sequence = plan.sequence
    if key not in SETTABLE or not np.isfinite(value):
        return None
    if key in FLASH:
        return _with_flash(plan, key, value)
    drops = list(sequence.drops)
    if not drops or (key != "open_ms" and len(drops) < 2):
        return None
    us = round(value * 1000)
    if key in ("interval_ms", "gap_ms"):
        start = drops[0].start_us + us if key == "interval_ms" else drops[0].end_us + us
        shift = start - drops[1].start_us
        if start < 0:
            return None
        drops[1:] = [replace(drop, start_us=drop.start_us + shift) for drop in drops[1:]]
    else:
        place = 0 if key == "open_ms" else 1
        if us < MIN_OPEN_US:
            return None
        drops[place] = replace(drops[place], open_us=us)
    made = replace(sequence, drops=tuple(drops))
    return made if all(drop.start_us >= 0 and drop.end_us <= MAX_TIME_US for drop in made.drops) else None


def _with_flash(plan: Plan, key: str, value: float) -> Sequence | None:
    from_ms: float | None = 0.0
    if key != "flash_ms":
        flight = flight_of(plan)
        from_ms = flight.touchdown_ms if key == "after_touchdown_ms" else flight.meeting_ms
    if from_ms is None:
        return None
    us = round((from_ms + value) * 1000)
    if not 0 <= us <= MAX_TIME_US:
        return None
    flashes = list(plan.sequence.flashes)
    if not flashes:
        return replace(plan.sequence, flashes=(FlashPulse(us),))
    first = min(range(len(flashes)), key=lambda k: flashes[k].at_us)
    flashes[first] = replace(flashes[first], at_us=us)
    return replace(plan.sequence, flashes=tuple(flashes))


def sequence_at(plan: Plan, x: str, x_value: float, y: str, y_value: float) -> Sequence | None:
    """Return the plan's sequence moved to a spot of the atlas; None where it cannot stand there."""
    # Drops first: what a flash is counted from hangs on them.
    first, second = ((x, x_value), (y, y_value)) if y in FLASH else ((y, y_value), (x, x_value))
    moved = with_figure(plan, *first)
    return None if moved is None else with_figure(replace(plan, sequence=moved), *second)


def sequences_between(
    plan: Plan, x: str, y: str, begin: tuple[float, float], end: tuple[float, float], most: int = MOST_SERIES
) -> list[Sequence]:
    """Return the plan's sequence at even steps from one spot of the atlas to another, both ends among them.

    The steps are a millisecond in whichever figure changes more, coarser where that makes more than `most`. Spots at
    which it cannot stand are left out.
    """
    longest = max(abs(end[0] - begin[0]), abs(end[1] - begin[1]))
    count = min(max(round(longest) + 1, 2), most)
    shares = [n / (count - 1) for n in range(count)]
    spots = [tuple(b + share * (e - b) for b, e in zip(begin, end, strict=True)) for share in shares]
    made = [sequence_at(plan, x, u, y, v) for u, v in spots]
    return list(dict.fromkeys(sequence for sequence in made if sequence is not None))


def figures_in_hand(plan: Plan, x: str, y: str) -> tuple[float, float] | None:
    """Return where the plan's own sequence stands over two figures; None where it has no such figures."""
    facts = facts_of(plan, flight_of(plan))
    found = tuple(getattr(facts, key, None) for key in (x, y))
    return None if None in found else (float(found[0]), float(found[1]))  # type: ignore[arg-type]


def regions(plan: Plan, x: str, y: str, view: tuple[float, float, float, float], steps: int = STEPS) -> Regions | None:
    """Return the likeliest shapes in view, as the belief in hand foresees them; None where an axis is no timing.

    view : least and greatest x, least and greatest y, in the figures' units.
    """
    if x not in SETTABLE or y not in SETTABLE or x == y or len(plan.sequence.drops) > MAX_DROPS:
        return None
    turned = x in FLASH and y not in FLASH
    across, up = (y, x) if turned else (x, y)
    xs = np.linspace(view[0], view[1], steps)
    ys = np.linspace(view[2], view[3], steps)
    columns, rows = (ys, xs) if turned else (xs, ys)
    keys = tuple(BY_KEY)
    place = {key: number for number, key in enumerate(keys)}
    shape, chance = np.full((steps, steps), -1, np.int64), np.zeros((steps, steps))
    rigs = sample_rigs(plan.belief, RIGS)
    for i, u in enumerate(columns):
        moved = with_figure(plan, across, float(u))
        if moved is None:
            continue
        base = replace(plan, sequence=moved)
        what = None if up not in FLASH else forecast(plan.setup, plan.belief, moved, rigs)
        for j, v in enumerate(rows):
            at = with_figure(base, up, float(v)) if up in FLASH else sequence_at(plan, across, float(u), up, float(v))
            if at is None or not at.flashes:
                continue
            seen = what if what is not None else forecast(plan.setup, plan.belief, at, rigs)
            key, likely = next(iter(shape_probabilities(seen, at.first_flash_us).items()))
            if likely >= LEAST_CHANCE and key != "not-foreseen":
                shape[j, i], chance[j, i] = place[key], likely
    if turned:
        shape, chance = shape.T, chance.T
    return Regions(xs, ys, shape, chance, keys)
