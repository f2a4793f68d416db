"""Shots of one or two drops on one spot, as nearly all shots are: what `phases` tells of them, for hundreds at once.

Everything that a single drop does is counted from its touchdown, and is the same for each shot on one rig; only when
the second drop comes, and what it then meets, is a matter of the shot. So the physics is asked once for each size of
drop, and a shot costs a few additions. `evidence` takes this way where it can; a test holds the two ways together.
"""

from __future__ import annotations

from collections.abc import Iterator
from collections.abc import Sequence as Many
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import Rigs
from ondine.core.coach.tags import FLOOR, TAGGED_AS
from ondine.core.coach.unknowns import Unknowns
from ondine.core.constants import US_PER_S
from ondine.core.forecast.falls import spots
from ondine.core.forecast.phases import INDEX, NEAR_TOP, seen_from_s
from ondine.core.forecast.shapes import COLLAPSED_UNTIL, FULL_SHARE, NEAR_MISS_DIAMETERS, TORN_UNTIL
from ondine.core.forecast.train import CRATER_JET_SHARE
from ondine.core.forecast.whole import forecast
from ondine.core.physics import drop, meeting
from ondine.core.physics.liquid import DROP_AGE_S, SHEET_AGE_S
from ondine.core.physics.splash import jet_rise_s
from ondine.core.timing.sequence import Pulse, Sequence

if TYPE_CHECKING:
    from ondine.core.coach.evidence import Seen

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

FOREVER_S = 60.0


def is_pair(seen: Seen, unknowns: Unknowns) -> bool:
    """Whether a shot has one drop, or two that land on one spot, the second after the first."""
    drops = seen.sequence.drops
    if len(drops) == 1:
        return True
    in_order = len(drops) == 2 and drops[0].start_us < drops[1].start_us
    return in_order and len(spots(unknowns.setup, seen.sequence)) == 1


@dataclass(frozen=True, eq=False)
class _Drop:
    """What one drop does on each rig, counted from its touchdown: arrays of shape (n,) in single precision."""

    lands_s: Singles
    comes_s: Singles
    diameter_m: Singles
    speed_m_s: Singles
    enters_s: Singles
    crown_s: Singles
    opens_s: Singles
    jet_m_s: Singles
    slows_m_s2: Singles
    bead_s: Singles
    life_s: Singles
    peak_share: Singles
    widest_s: Singles
    reshapes_s: Singles


def _drop(pulse: Pulse, unknowns: Unknowns, rigs: Rigs) -> _Drop:
    what = forecast(unknowns.setup, unknowns.belief, Sequence((Pulse(0, pulse.open_us, pulse.valve),), ()), rigs)
    falls, made = what.falls, what.splashes
    lands, diameter = falls.touchdown_s[0], falls.diameter_m[0]
    liquid = unknowns.setup.mix_of(pulse.valve).liquid()
    sheet, fresh = liquid.aged(SHEET_AGE_S), liquid.aged(DROP_AGE_S)
    parts = (
        lands,
        seen_from_s(what, [0]) - lands,
        diameter,
        falls.impact_m_s[0],
        diameter / falls.impact_m_s[0],
        made.crown_end_s[0] - lands,
        made.jet_delay_s[0],
        np.where(np.isfinite(made.jet_s[0]), made.jet_m_s[0], np.nan),
        made.jet_slows_m_s2[0],
        made.bead_s[0] - lands,
        rigs.sheet_time_factor * meeting.sheet_time_s(diameter, sheet),
        rigs.sheet_peak_share,
        # For each m/s of closing speed, with which it goes.
        rigs.sheet_width_factor * meeting.widest_sheet_m(diameter, 1.0, sheet),
        drop.capillary_time_s(diameter, fresh.density_kg_m3, fresh.surface_tension_n_m),
    )
    return _Drop(*(np.asarray(part, dtype=np.float32) for part in parts))


@dataclass(frozen=True, eq=False)
class _Pairs:
    """Shots of two like drops each, counted from the first touchdown: `since_s` of the flash, `second_s` when the other
    drop would land, both of shape (shots, n); it meets the jet, or its `bead`, at `met_s`, or never, and hangs over it
    from `hangs_s`.
    """

    one: _Drop
    two: _Drop
    since_s: Singles
    second_s: Singles
    met_s: Singles
    hangs_s: Singles
    closing_m_s: Singles
    bead: NDArray[np.bool_]
    merged: NDArray[np.bool_]

    @property
    def own_splash(self) -> NDArray[np.bool_]:
        """Where the second drop meets nothing and lands on water or in the open crater."""
        return np.asarray((self.met_s >= FOREVER_S) & (self.second_s < FOREVER_S))


@dataclass(frozen=True, eq=False)
class Shown:
    """What shots show on each rig, all of shape (shots, n): how probable their tags are; how high the jet or the sheet
    then stands and how wide the sheet is, NaN where there is none [m]; and how fast either changes [m/s].
    """

    probability: Floats
    height_m: Floats
    rises_m_s: Floats
    width_m: Floats
    widens_m_s: Floats


def what_is_shown(seen: Many[Seen], unknowns: Unknowns, rigs: Rigs) -> Shown:
    """Return what shots show; height and width only where one of like shots has them measured."""
    drops: dict[tuple[int, int], _Drop] = {}
    groups: dict[tuple[tuple[int, int], ...], list[int]] = {}
    for index, one in enumerate(seen):
        sizes = tuple((pulse.open_us, pulse.valve) for pulse in one.sequence.drops)
        groups.setdefault(sizes, []).append(index)
        for size, pulse in zip(sizes, one.sequence.drops, strict=True):
            if size not in drops:
                drops[size] = _drop(pulse, unknowns, rigs)
    shape = len(seen), rigs.count
    made = Shown(np.full(shape, FLOOR), *(np.full(shape, value) for value in (np.nan, 0.0, np.nan, 0.0)))
    scale = (1 / rigs.jitter_s).astype(np.float32)
    for sizes, members in groups.items():
        pairs = _pairs([seen[i] for i in members], drops[sizes[0]], drops[sizes[-1]], rigs)
        tags = np.array([INDEX[seen[i].shape] for i in members])
        made.probability[members] = _of_tags(pairs, tags, scale)
        if any(seen[i].height_m is not None for i in members):
            made.height_m[members], made.rises_m_s[members] = _heights(pairs, rigs)
        if any(seen[i].width_m is not None for i in members):
            made.width_m[members], made.widens_m_s[members] = _widths(pairs, rigs)
    return made


def _pairs(seen: list[Seen], one: _Drop, two: _Drop, rigs: Rigs) -> _Pairs:
    starts = np.array([[p.start_us / US_PER_S for p in shot.sequence.drops] for shot in seen], dtype=np.float32)
    flash = np.array([[shot.sequence.first_flash_us / US_PER_S] for shot in seen], dtype=np.float32)
    since = flash - starts[:, :1] - one.lands_s
    if starts.shape[1] == 1:
        never = np.full(since.shape, FOREVER_S, dtype=np.float32)
        none = np.zeros(since.shape, dtype=bool)
        return _Pairs(one, two, since, never, never, never, never, none, none)
    apart = starts[:, 1:] - starts[:, :1]
    second = apart + two.lands_s - one.lands_s
    gap = apart - np.float32(seen[0].sequence.drops[0].open_us / US_PER_S)
    merged = drop.merges(gap, one.reshapes_s, rigs.merge_ratio.astype(np.float32))
    touch = np.abs(second) * np.where(second > 0, two.speed_m_s, one.speed_m_s) < (one.diameter_m + two.diameter_m) / 2
    x = meeting.meeting_delay_s(second - one.opens_s, two.speed_m_s, one.jet_m_s, one.slows_m_s2)
    met = np.where(np.isfinite(x), one.opens_s + x, FOREVER_S).astype(np.float32)
    closing = (two.speed_m_s + one.jet_m_s - one.slows_m_s2 * np.nan_to_num(x)).astype(np.float32)
    with np.errstate(invalid="ignore", divide="ignore"):
        hangs = np.maximum(met - NEAR_MISS_DIAMETERS * two.diameter_m / closing, np.maximum(one.opens_s, one.enters_s))
        bead = met >= one.bead_s
    hangs = np.where(met < FOREVER_S, hangs, FOREVER_S).astype(np.float32)
    return _Pairs(one, two, since, second, met, hangs, closing, bead, merged | touch | (second < 0))


def _of_tags(pairs: _Pairs, tags: NDArray[np.intp], scale: Singles) -> Floats:
    made = np.full(pairs.since_s.shape, FLOOR, dtype=np.float32)
    weights = (TAGGED_AS[tags] - FLOOR).astype(np.float32)
    # Logistic, with the standard deviation that each rig's jitter is: tanh(π·t/(2·√3·σ)).
    since = pairs.since_s * (scale * np.float32(np.pi / (2 * np.sqrt(3))))
    unit = scale * np.float32(np.pi / (2 * np.sqrt(3)))
    for key, begins, ends in _phases(pairs):
        rows = np.flatnonzero(weights[:, INDEX[key]] > 1e-6)
        if len(rows):
            passed = (np.tanh(since[rows] - edge(rows) * unit) for edge in (begins, ends))
            made[rows] += weights[rows, INDEX[key], None] * np.maximum(next(passed) - next(passed), 0) / 2
    return np.asarray(made, dtype=float)


class _Edge:
    """When a phase begins or ends on some of the shots: a time held before another one."""

    def __init__(self, at_s: Singles, until_s: Singles | None = None) -> None:
        self._at, self._until = at_s, until_s

    def __call__(self, rows: NDArray[np.intp]) -> Singles:
        at = self._at if self._at.ndim == 1 else self._at[rows]
        return np.asarray(at if self._until is None else np.minimum(at, self._until[rows]))


def _phases(pairs: _Pairs) -> Iterator[tuple[str, _Edge, _Edge]]:
    """Yield (shape, begin, end) of all phases, each on all shots and rigs; those that never stand have no length."""
    forever = np.full(pairs.since_s.shape[1], FOREVER_S, dtype=np.float32)
    first = np.zeros_like(forever)
    yield "nothing-in-frame", _Edge(-forever), _Edge(np.minimum(pairs.one.comes_s, 0))
    yield "in-flight", _Edge(np.minimum(pairs.one.comes_s, 0)), _Edge(first)
    whole = np.minimum(pairs.met_s, np.where(pairs.own_splash, pairs.second_s, FOREVER_S).astype(np.float32))
    if pairs.merged.any():
        yield "merged-drop", _Edge(np.where(pairs.merged, 0, FOREVER_S).astype(np.float32)), _Edge(forever)
        whole = np.where(pairs.merged, 0, whole).astype(np.float32)
    hang = np.where(pairs.met_s < FOREVER_S, np.minimum(pairs.hangs_s, whole), whole).astype(np.float32)
    yield from _single(pairs.one, first, hang)
    yield "near-miss-above", _Edge(hang), _Edge(whole)
    met = np.where(pairs.merged, FOREVER_S, pairs.met_s).astype(np.float32)
    if (met < FOREVER_S).any():
        yield from _sheet(pairs, met)
    lands = np.where(pairs.own_splash & ~pairs.merged, pairs.second_s, FOREVER_S).astype(np.float32)
    if (lands < FOREVER_S).any():
        struck = lands < pairs.one.opens_s
        yield from _second(pairs.two, lands, struck)


def _ends(of: _Drop, jet_share: float = 1.0) -> Iterator[tuple[str, Singles]]:
    """Yield the phases of a splash, each with its end, from touchdown; an end before the one before leaves it out."""
    rise = jet_rise_s(of.jet_m_s * np.float32(jet_share), of.slows_m_s2).astype(np.float32)
    before_top = (of.opens_s + rise * np.float32(1 - NEAR_TOP)).astype(np.float32)
    yield "rising-jet", np.fmin(of.bead_s, before_top)
    yield "beaded-jet", before_top
    yield "jet-top", of.opens_s + rise * np.float32(1 + NEAR_TOP)
    yield "falling-jet", of.opens_s + 2 * rise


def _single(of: _Drop, lands: Singles, stop: Singles) -> Iterator[tuple[str, _Edge, _Edge]]:
    """Yield the phases of a splash on calm water, up to a stop."""
    begin = lands
    water = (("touchdown", of.enters_s), ("crown", of.crown_s), ("crater", of.opens_s))
    for key, end in (*water, *_ends(of), ("ripples", np.full_like(of.opens_s, FOREVER_S))):
        end_s = np.fmax(lands + end, begin)
        yield key, _Edge(begin, stop), _Edge(end_s, stop)
        begin = end_s


def _second(of: _Drop, lands: Singles, struck: NDArray[np.bool_]) -> Iterator[tuple[str, _Edge, _Edge]]:
    """Yield the phases of the second drop's own splash; struck : where it lands in the first one's open crater."""
    forever = np.full(lands.shape, FOREVER_S, dtype=np.float32)
    calm = np.where(struck, FOREVER_S, lands).astype(np.float32)
    if (calm < FOREVER_S).any():
        yield from _single(of, calm, forever)
    if struck.any():
        into = np.where(struck, lands, FOREVER_S).astype(np.float32)
        begin = into
        for key, end in (("crater-hit", of.opens_s), *_ends(of, CRATER_JET_SHARE), ("ripples", forever)):
            end_s = np.fmax(into + end, begin)
            yield key, _Edge(begin), _Edge(end_s)
            begin = end_s


def _sheet(pairs: _Pairs, met: Singles) -> Iterator[tuple[str, _Edge, _Edge]]:
    life, begin = pairs.two.life_s, met
    full_from, full_until = (
        share.astype(np.float32) for share in meeting.sheet_full_shares(FULL_SHARE, pairs.two.peak_share)
    )
    ages = (
        ("contact", pairs.two.diameter_m / pairs.closing_m_s),
        ("opening-umbrella", full_from * life),
        ("full-umbrella", full_until * life),
        ("torn-umbrella", np.float32(TORN_UNTIL) * life),
        ("collapsed", np.float32(COLLAPSED_UNTIL) * life),
        ("ripples", np.full_like(life, FOREVER_S)),
    )
    for key, age in ages:
        end_s = np.fmax(met + age, begin)
        yield key, _Edge(begin), _Edge(end_s)
        begin = end_s


def _heights(pairs: _Pairs, rigs: Rigs) -> tuple[Floats, Floats]:
    """Height of jet or sheet at the flash, and its speed up or down."""
    one, two = pairs.one, pairs.two
    rise, slows = one.jet_m_s, one.slows_m_s2
    up, x, age = pairs.since_s - one.opens_s, pairs.met_s - one.opens_s, pairs.since_s - pairs.met_s
    tip = rise - slows * x
    drift = meeting.sheet_start_m_s(two.speed_m_s, tip, rigs.tip_mass_share, pairs.bead)
    brake = meeting.sheet_brake_m(two.diameter_m, rise * x - slows * x * x / 2, rigs.tip_mass_share, pairs.bead)
    jet_ends = np.minimum(pairs.met_s, np.where(pairs.own_splash, pairs.second_s, FOREVER_S)) - one.opens_s
    struck = pairs.own_splash & (pairs.second_s < one.opens_s)
    with np.errstate(invalid="ignore", over="ignore"):
        on = age > 0
        moved, moves = meeting.sheet_sinking_m(age, drift, brake)
        sheet = rise * x - slows * x * x / 2 + moved
        height, speed = _tip(up, rise, slows, jet_ends)
        again, rises = _tip(
            np.where(pairs.own_splash, pairs.since_s - pairs.second_s - two.opens_s, -1),
            np.where(struck, CRATER_JET_SHARE, 1) * two.jet_m_s,
            two.slows_m_s2,
            FOREVER_S,
        )
        height, speed = np.where(np.isfinite(again), again, height), np.where(np.isfinite(again), rises, speed)
        height, speed = np.where(on, sheet, height), np.where(on, moves, speed)
    return np.where(pairs.merged, np.nan, height).astype(float), np.abs(speed).astype(float)


def _widths(pairs: _Pairs, rigs: Rigs) -> tuple[Floats, Floats]:
    """Width of the sheet at the flash, and its speed, NaN and 0 where none is open."""
    two, age = pairs.two, pairs.since_s - pairs.met_s
    widest = two.widest_s * pairs.closing_m_s * meeting.sheet_share(rigs.tip_mass_share, pairs.bead)
    width = 2 * meeting.sheet_radius_m(age, two.life_s, two.peak_share, widest, two.diameter_m)
    speed = 2 * meeting.sheet_edge_speed_m_s(age, two.life_s, two.peak_share, widest)
    return np.where((width > 0) & ~pairs.merged, width, np.nan), np.abs(speed)


def _tip(up: Singles, rise: Singles, slows: Singles, ends: Singles | float) -> tuple[Singles, Singles]:
    """Height and speed of a jet's tip some time after it left the surface, NaN and 0 where none stands."""
    stands = (up > 0) & (up < ends) & (up < 2 * rise / slows)
    return np.where(stands, rise * up - slows * up * up / 2, np.nan), np.where(stands, rise - slows * up, 0)
