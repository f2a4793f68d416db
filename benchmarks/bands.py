"""How often what hidden rigs do lies inside the 90 % band of the forecast, quantity by quantity: before anything was
taught, and after ten shots that the coach chose.

The rigs are those of practice: nozzles of 15 to 60 cm, outlets of 1.65 to 2.9 mm of which every second one was
measured, openings of 15 to 35 ms, a flow entered up to 20 % wrong, water, glycerine, milk, gum and soap. Trains of up
to three drops: alone, on the jet, into the open crater, onto what the second has left, on calm water. A quantity
counts where the hidden rig shows it and a tenth of the sampled rigs do.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from benchmarks.coach.search import Tagger
from ondine.bench.simulated.hidden import Luck
from ondine.bench.simulated.population import PracticeRig
from ondine.bench.simulated.splashes import Splash, Umbrella
from ondine.bench.simulated.world import Happening, happen
from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import Rigs, sample_rigs
from ondine.core.coach.goal import Goal
from ondine.core.coach.searching import search
from ondine.core.forecast.train import On
from ondine.core.forecast.whole import Forecast, forecast
from ondine.core.physics.liquid import WettingAgent
from ondine.core.physics.splash import jet_rise_s, jet_top_m
from ondine.core.setup import Mix, Setup
from ondine.core.timing.sequence import Pulse, Sequence

RIGS, DRAWS, BAND = 60, 1024, 0.9
LEAST_CASES = 20
"""What fewer rigs show is told, and not held to a bound: chance alone would break it."""

BEFORE, AFTER, SHOTS = (0.88, 0.97), (0.85, 0.95), 10
"""Share of the hidden values inside the band, least and most: before teaching, and after so many shots."""

LIQUIDS = (
    None,
    Mix(glycerine_mass_fraction=0.15),
    Mix(glycerine_mass_fraction=0.40),
    Mix(milk_mass_fraction=0.05),
    Mix(gum_mass_fraction=0.001),
    Mix(wetting_agent=WettingAgent.SOAP),
)
"""What falls on every so many rigs; None: what the population gives them."""


def foreseen(what: Forecast) -> dict[str, np.ndarray]:
    """Each quantity of each drop on every sampled rig, NaN where it does not happen; times from the trigger."""
    found: dict[str, np.ndarray] = {}
    falls, made, meets = what.falls, what.splashes, what.meetings
    for k in range(len(what.sequence.drops)):
        landed, ends = made.touchdown_s[k], made.ends_s[k]
        jet = np.where(made.jet_s[k] < ends, made.jet_s[k], np.nan)
        top_s = jet + jet_rise_s(made.jet_m_s[k], made.jet_slows_m_s2[k])
        freely = np.where(top_s < ends, 1.0, np.nan)
        whole = np.where(ends > made.deepest_s[k], 1.0, np.nan)
        of_drop = {
            "touchdown [s]": landed,
            "impact speed [m/s]": np.where(np.isfinite(landed), falls.impact_m_s[k], np.nan),
            "drop diameter [m]": falls.diameter_m[k],
            "jet after touchdown [s]": jet - landed,
            "jet top height [m]": freely * jet_top_m(made.jet_m_s[k], made.jet_slows_m_s2[k]),
            "jet top after touchdown [s]": freely * (top_s - landed),
            "sheet life [s]": meets.sheet_life_s[k],
            "sheet full after meeting [s]": meets.sheet_life_s[k] * what.rigs.sheet_peak_share,
            "sheet radius [m]": meets.widest_m[k],
        }
        in_crater = made.in_crater[k]
        for where, here in (("", ~in_crater), (" in a crater", in_crater)):
            of_drop[f"crater radius{where} [m]"] = np.where(here, whole * made.crater_m[k], np.nan)
        of_drop["crown after touchdown [s]"] = np.where(
            ends > made.crown_end_s[k], made.crown_end_s[k] - landed, np.nan
        )
        for on, those in ((On.JET, (On.JET, On.BEAD)), (On.SHEET, (On.SHEET, On.THROUGH)), (On.COLUMN, (On.COLUMN,))):
            here = np.isin(meets.on[k], those)
            of_drop[f"meets the {on.name.lower()} [s]"] = np.where(here, meets.time_s[k], np.nan)
            of_drop[f"meets the {on.name.lower()}, height [m]"] = np.where(here, meets.height_m[k], np.nan)
        found |= {f"drop {k + 1} {name}": values for name, values in of_drop.items()}
    return found


def happened(what: Happening) -> dict[str, float]:
    """The same quantities in the simulated world."""
    found: dict[str, float] = {}
    for drop in what.drops:
        found[f"drop {drop.number + 1} drop diameter [m]"] = drop.diameter
    for place, splash in enumerate(what.splashes):
        later = what.splashes[place + 1 :]
        struck = bool(later) and later[0].in_crater
        found |= {f"drop {splash.drop.number + 1} {name}": v for name, v in _of_splash(splash, struck).items()}
    met = {drop.until: drop for drop in what.drops if drop.until < drop.landed}
    for umbrella in what.umbrellas:
        number = met[umbrella.met].number + 1
        found |= {f"drop {number} {name}": value for name, value in _of_sheet(umbrella).items()}
    return found


def _of_splash(splash: Splash, struck: bool) -> dict[str, float]:
    cavity, jet, landed = splash.cavity, splash.jet, splash.drop.landed
    found = {"touchdown [s]": landed, "impact speed [m/s]": splash.drop.impact_speed}
    if not struck:
        found[f"crater radius{' in a crater' if splash.in_crater else ''} [m]"] = cavity.widest
        if splash.crowned:
            found["crown after touchdown [s]"] = cavity.uncrowned - cavity.opened
    if jet is None:
        return found
    found["jet after touchdown [s]"] = jet.risen - landed
    times = np.linspace(jet.risen, jet.sunk, 400)
    heights = [float(jet.track(t)[0]) for t in times]
    top_s = float(times[int(np.argmax(heights))])
    if not splash.umbrellas or splash.umbrellas[0].met > top_s:
        found |= {"jet top height [m]": max(heights), "jet top after touchdown [s]": top_s - landed}
    return found


def _of_sheet(sheet: Umbrella) -> dict[str, float]:
    on = "jet" if sheet.on == "bead" else sheet.on
    times = np.linspace(sheet.met, sheet.gone, 200)
    radii = [float(sheet.track(t)[0]) for t in times]
    return {
        f"meets the {on} [s]": sheet.met,
        f"meets the {on}, height [m]": float(sheet.track(sheet.met)[2]),
        "sheet life [s]": sheet.gone - sheet.met,
        "sheet full after meeting [s]": float(times[int(np.argmax(radii))]) - sheet.met,
        "sheet radius [m]": sheet.peak,
    }


@dataclass(frozen=True)
class Case:
    """One hidden rig, what its photographer entered, and the trains of drops that are tried on it."""

    rig: PracticeRig
    setup: Setup
    trains: tuple[Sequence, ...]


def case(seed: int) -> Case:
    """Return the case of a seed."""
    rig = PracticeRig(seed)
    valve, mix = rig.setup.valves[0], LIQUIDS[seed % len(LIQUIDS)] or rig.setup.mix
    if seed % 2:
        # Read with a ruler.
        valve = replace(valve, outlet_diameter_m=round(rig.hidden.outlet_m, 4))
    rig.setup = replace(rig.setup, valves=(valve,), mix=mix)
    return Case(rig, rig.setup, trains(rig.start.drops[0].open_us))


def trains(open_us: int) -> tuple[Sequence, ...]:
    """Return trains of drops of one opening: alone, in pairs, a third one on what is left, and into the crater."""
    starts_ms = ((0,), (0, 95), (0, 95, 150), (0, 50), (0, 50, 145), (0, 600, 695))
    longer = max(open_us - 22_000, 0)
    return tuple(
        Sequence.with_one_flash(tuple(Pulse(ms * 1000 + longer * n, open_us) for n, ms in enumerate(train)), 0)
        for train in starts_ms
    )


def _truth(one: Case, train: Sequence) -> dict[str, float]:
    """What a train does on the hidden rig without luck, but for drops that merge; times as a flash shows them."""
    hidden = one.rig.hidden
    none = np.zeros(len(train.drops))
    luck = replace(Luck.of_shot(hidden, 1, 1, len(none)), timing_s=none, volume=none + 1, aside_m=none, wild=())
    calm = replace(luck, lean=(), doubles=frozenset(), drips=frozenset(), wobble=none)
    what = happen([hidden], calm, one.setup, train, [hidden.head_m])
    return {} if what.merged else happened(what)


Ranks = dict[str, list[float]]


def coverage(rigs: int = RIGS, shots: int = SHOTS) -> tuple[Ranks, Ranks]:
    """For each quantity, where each hidden rig's value lies among the sampled ones, as a share of them: before
    teaching, and after so many shots.
    """
    before: Ranks = {}
    after: Ranks = {}
    drawn = sample_rigs(Belief(), DRAWS)
    for seed in range(rigs):
        one = case(seed)
        taught = _taught(one, seed, shots)
        for train in one.trains:
            truth = _truth(one, train)
            even = np.full(drawn.count, 1 / drawn.count)
            _rank(before, truth, foreseen(forecast(one.setup, Belief(), train, drawn)), even)
            late = one.rig.hidden.flash_lag_s
            seen = {name: value - late if name in ABSOLUTE else value for name, value in truth.items()}
            _rank(after, seen, foreseen(forecast(one.setup, Belief(), train, taught[0])), taught[1])
    return before, after


ABSOLUTE = tuple(
    f"drop {drop} {name} [s]"
    for drop in (1, 2, 3)
    for name in ("touchdown", "meets the jet", "meets the sheet", "meets the column")
)
"""The quantities that are times of the sequence: a light that comes late makes them seem early."""


def _taught(one: Case, seed: int, shots: int) -> tuple[Rigs, np.ndarray]:
    """Return the rigs that some shots of the coach leave, and their weights."""
    tagger = Tagger(seed, 0.05)
    for tried in search(one.setup, one.rig.start, Goal(), one.rig.fire, tagger.tag):
        if tried.shot == shots:
            unknowns = tried.known.unknowns
            rigs, wild = unknowns.rigs(tried.known.coordinates), Belief().variation.crater_jet_share
            luck = np.random.default_rng(seed).normal(0, wild, rigs.wild_luck.shape)
            return replace(rigs, wild_luck=luck), tried.known.weights
    raise AssertionError("a search goes on for ever")


def _rank(ranks: Ranks, seen: dict[str, float], bands: dict[str, np.ndarray], weights: np.ndarray) -> None:
    for name, value in seen.items():
        there = np.isfinite(bands[name])
        if weights[there].sum() > 0.1:
            below = weights[there & (bands[name] < value)].sum()
            ranks.setdefault(name, []).append(float(below / weights[there].sum()))


def run(small: bool = False) -> Iterator[str]:
    """Print the coverage of each quantity."""
    before, after = coverage(2, 2) if small else coverage()
    for name, ranks, bound in (("before teaching", before, BEFORE), (f"after {SHOTS} shots", after, AFTER)):
        yield f"{RIGS} hidden rigs of practice, {name}; share inside the {BAND:.0%} band"
        yield from _lines(ranks, bound, 1 if small else LEAST_CASES)


def _lines(found: Ranks, bound: tuple[float, float], least: int) -> Iterator[str]:
    low, high = (1 - BAND) / 2, (1 + BAND) / 2
    for name, ranks in sorted(found.items()):
        inside = float(np.mean([low <= rank <= high for rank in ranks]))
        where = f"{inside:5.0%} of {len(ranks):4}, median rank {np.median(ranks):.2f}"
        good = "met" if bound[0] <= inside <= bound[1] else "MISSED"
        yield f"  {name:38} {where}   " + (
            f"bound {bound[0]:.0%} to {bound[1]:.0%}: {good}" if len(ranks) >= least else "too few for a bound"
        )
