"""Facts of the trade, row by row, with what the untaught forecast and the hidden rigs of practice make of them.

Common practice, no published source. `python -m tests.practice_rows` prints the table of docs/physics.md.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.world import Happening, happen
from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import sample_rigs
from ondine.core.forecast.shapes import FULL_SHARE
from ondine.core.forecast.whole import Forecast, forecast
from ondine.core.physics.meeting import sheet_full_shares
from ondine.core.physics.splash import jet_top_m
from ondine.core.setup import Setup, Valve
from ondine.core.timing.sequence import Pulse, Sequence

RIGS, DRAWS = 40, 1024
CALM = Luck(np.zeros(3), np.ones(3), np.zeros(3), np.zeros(3), 0.3, False)


@dataclass(frozen=True)
class Table:
    """A table of practice: nozzle height, opening, pause from closing to opening; None for one drop."""

    height_m: float
    open_ms: float = 20.0
    gap_ms: float | None = 65.0

    @property
    def setup(self) -> Setup:
        """The set-up."""
        return Setup(valves=(Valve(nozzle_height_m=self.height_m),))

    @property
    def sequence(self) -> Sequence:
        """The drops."""
        opens = round(self.open_ms * 1000)
        second = () if self.gap_ms is None else (Pulse(opens + round(self.gap_ms * 1000), opens),)
        return Sequence((Pulse(0, opens), *second), ())


@lru_cache
def foreseen(table: Table) -> Forecast:
    """What is foreseen before anything was taught."""
    return forecast(table.setup, Belief(), table.sequence, sample_rigs(Belief(), DRAWS))


@lru_cache
def hidden(table: Table) -> tuple[Happening, ...]:
    """What hidden rigs of practice do, with water and without luck."""
    rigs = [HiddenRig.of_practice(seed, 2.6e-6) for seed in range(RIGS)]
    calm = (replace(rig, late_odds=0.0, double_odds=0.0, drip_odds=0.0) for rig in rigs)
    return tuple(happen([rig], CALM, table.setup, table.sequence, [rig.head_m]) for rig in calm)


Values = np.ndarray


@dataclass(frozen=True)
class Row:
    """One fact: what is told, from `low` to `high`, and how both sides compute it; NaN where it does not happen."""

    says: str
    unit: str
    low: float
    high: float
    table: Table
    ours: Callable[[Forecast], Values]
    theirs: Callable[[Happening], float]

    def forecast(self) -> Values:
        """The values on the sampled rigs."""
        return self.ours(foreseen(self.table))

    def world(self) -> Values:
        """The values on the hidden rigs."""
        return np.array([self.theirs(what) for what in hidden(self.table)], dtype=float)


def _diameter(what: Forecast) -> Values:
    return np.asarray(what.falls.diameter_m[0] * 1e3)


def _their_diameter(what: Happening) -> float:
    return float(what.drops[0].diameter) * 1e3


def _full(what: Forecast) -> Values:
    meets = what.meetings
    return np.asarray((meets.time_s[1] + what.rigs.sheet_peak_share * meets.sheet_life_s[1]) * 1e3)


def _sheet(what: Happening) -> tuple[np.ndarray, np.ndarray] | None:
    if what.merged or not what.umbrellas:
        return None
    sheet = what.umbrellas[0]
    times = np.linspace(sheet.met, sheet.gone, 200)
    return times, np.array([float(sheet.track(time)[0]) for time in times])


def _their_full(what: Happening) -> float:
    found = _sheet(what)
    return np.nan if found is None else float(found[0][int(np.argmax(found[1]))]) * 1e3


def _full_for(what: Forecast) -> Values:
    first, last = sheet_full_shares(FULL_SHARE, what.rigs.sheet_peak_share)
    return np.asarray((last - first) * what.meetings.sheet_life_s[1] * 1e3)


def _their_full_for(what: Happening) -> float:
    found = _sheet(what)
    if found is None:
        return np.nan
    times, radii = found
    open_s = times[radii >= FULL_SHARE * radii.max()]
    return float(open_s[-1] - open_s[0]) * 1e3


def _width(what: Forecast) -> Values:
    return np.asarray(2e3 * what.meetings.widest_m[1])


def _their_width(what: Happening) -> float:
    found = _sheet(what)
    return np.nan if found is None else 2e3 * float(found[1].max())


def _crater(what: Forecast) -> Values:
    return np.asarray(what.splashes.crater_m[0] * 1e3)


def _their_crater(what: Happening) -> float:
    return 1e3 * float(what.splashes[0].cavity.widest)


def _collides(what: Forecast) -> Values:
    return np.asarray((what.meetings.time_s[1] - what.falls.touchdown_s[0]) * 1e3)


def _their_collides(what: Happening) -> float:
    if what.merged or not what.umbrellas:
        return np.nan
    return 1e3 * (what.umbrellas[0].met - what.drops[0].landed)


def _top(what: Forecast) -> Values:
    made = what.splashes
    return np.asarray((made.jet_s[0] + made.jet_m_s[0] / made.jet_slows_m_s2[0] - made.touchdown_s[0]) * 1e3)


def _their_top(what: Happening) -> float:
    jet = what.splashes[0].jet
    if jet is None:
        return np.nan
    times = np.linspace(jet.risen, jet.sunk, 200)
    return 1e3 * float(times[int(np.argmax([float(jet.track(t)[0]) for t in times]))] - what.drops[0].landed)


def _tall(what: Forecast) -> Values:
    made = what.splashes
    return np.asarray(jet_top_m(made.jet_m_s[0], made.jet_slows_m_s2[0]) / what.falls.diameter_m[0])


def _their_tall(what: Happening) -> float:
    jet = what.splashes[0].jet
    if jet is None:
        return np.nan
    heights = [float(jet.track(t)[0]) for t in np.linspace(jet.risen, jet.sunk, 200)]
    return max(heights) / float(what.drops[0].diameter)


def _stands_on(what: Forecast) -> Values:
    """How long after the sheet is widest its column still stands."""
    meets, rigs = what.meetings, what.rigs
    return np.asarray((meets.sheet_life_s[1] * (1 - rigs.sheet_peak_share) + rigs.column_stands_s) * 1e3)


def _their_stands_on(what: Happening) -> float:
    found = _sheet(what)
    if found is None:
        return np.nan
    times, radii = found
    return 1e3 * float(what.umbrellas[0].gone + what.umbrellas[0].stands - times[int(np.argmax(radii))])


SINGLE = Table(0.45, gap_ms=None)
ROWS = (
    Row("drop of 20 ms", "mm", 4.4, 4.6, SINGLE, _diameter, _their_diameter),
    Row("drop of 40 ms", "mm", 5.7, 5.9, Table(0.45, 40.0, None), _diameter, _their_diameter),
    Row("crater of 40 ms from 45 cm", "mm", 10, 13, Table(0.45, 40.0, None), _crater, _their_crater),
    Row("crater of 20 ms from 35 cm", "mm", 9, 10.5, Table(0.35, 20.0, None), _crater, _their_crater),
    Row("jet's top after touchdown, some tables", "ms", 70, 100, SINGLE, _top, _their_top),
    Row("jet's top, in drops", "D", 5, 6, SINGLE, _tall, _their_tall),
    Row("collision after touchdown, 45 cm", "ms", 60, 115, Table(0.45), _collides, _their_collides),
    Row("collision after touchdown, 20 cm", "ms", 60, 115, Table(0.20), _collides, _their_collides),
    Row("flash from 50 cm", "ms", 320, 350, Table(0.50, gap_ms=55.0), _full, _their_full),
    Row("flash from 45 cm", "ms", 320, 350, Table(0.45, gap_ms=55.0), _full, _their_full),
    Row("flash from 40 cm", "ms", 320, 350, Table(0.40, gap_ms=55.0), _full, _their_full),
    Row("flash from 20 cm", "ms", 210, 220, Table(0.20, gap_ms=55.0), _full, _their_full),
    Row("flash from 15 cm", "ms", 210, 220, Table(0.15, gap_ms=55.0), _full, _their_full),
    Row("sheet across, 45 cm", "mm", 22, 30, Table(0.45), _width, _their_width),
    Row("sheet is full for", "ms", 3, 6, Table(0.45), _full_for, _their_full_for),
    Row("column stands on after the full sheet", "ms", 25, 60, Table(0.45), _stands_on, _their_stands_on),
)


def _band(values: Values) -> str:
    low, middle, high = np.nanquantile(values, [0.05, 0.5, 0.95])
    return f"{middle:.3g} ({low:.3g}–{high:.3g})"


def lines() -> Iterator[str]:
    """Write the rows as a table."""
    yield "| fact | practice | forecast | hidden rigs |"
    yield "|---|---|---|---|"
    for row in ROWS:
        told = f"{row.low:g}–{row.high:g} {row.unit}"
        yield f"| {row.says} | {told} | {_band(row.forecast())} | {_band(row.world())} |"


if __name__ == "__main__":
    print("\n".join(lines()))
