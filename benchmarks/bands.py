"""How often what hidden rigs do lies inside the 90 % band that the untaught forecast gives, quantity by quantity."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from benchmarks.timing import verdict
from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.world import Happening, happen
from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import sample_rigs
from ondine.core.forecast.whole import Forecast, forecast
from ondine.core.physics.meeting import SHEET_PEAK_SHARE
from ondine.core.physics.splash import jet_rise_s, jet_top_m
from ondine.core.setup import Mix, Setup, Valve
from ondine.core.timing.sequence import Pulse, Sequence

RIGS, DRAWS, BAND = 25, 512, 0.9
HEIGHTS_M = (0.18, 0.25, 0.365, 0.45)
LIQUIDS = {
    "water": Mix(),
    "glycerine 15 %": Mix(glycerine_mass_fraction=0.15),
    "glycerine 40 %": Mix(glycerine_mass_fraction=0.40),
    "milk 5 %": Mix(milk_mass_fraction=0.05),
}
PAIR = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000)), 350_000)


def foreseen(what: Forecast) -> dict[str, np.ndarray]:
    """Each quantity on every sampled rig, NaN where it does not happen; times from the trigger."""
    falls, first, meets = what.falls, what.first, what.meetings
    rise = jet_rise_s(first.jet_m_s, first.jet_slows_m_s2)
    return {
        "touchdown [s]": falls.touchdown_s[0],
        "impact speed [m/s]": falls.impact_m_s[0],
        "drop diameter [m]": falls.diameter_m[0],
        "crater radius [m]": first.crater_m,
        "crown after touchdown [s]": first.crown_end_s - falls.touchdown_s[0],
        "jet after touchdown [s]": first.jet_s - falls.touchdown_s[0],
        "jet top height [m]": jet_top_m(first.jet_m_s, first.jet_slows_m_s2),
        "jet top after touchdown [s]": first.jet_s + rise - falls.touchdown_s[0],
        "meeting [s]": meets.time_s[1],
        "meeting height [m]": meets.height_m[1],
        "sheet life [s]": meets.sheet_life_s[1],
        "sheet full after meeting [s]": meets.sheet_life_s[1] * SHEET_PEAK_SHARE,
        "sheet radius [m]": meets.widest_m[1],
    }


def happened(one: Happening, pair: Happening) -> dict[str, float]:
    """The same quantities in the simulated world, of one drop alone and of two."""
    drop, splash = one.drops[0], one.splashes[0]
    cavity, jet = splash.cavity, splash.jet
    open_for = cavity.closed - cavity.opened
    found = {
        "touchdown [s]": drop.landed,
        "impact speed [m/s]": drop.impact_speed,
        "drop diameter [m]": drop.diameter,
        "crater radius [m]": cavity.widest,
    }
    if splash.crowned:
        found["crown after touchdown [s]"] = 0.45 * open_for
    if jet is not None:
        times = np.linspace(jet.risen, jet.sunk, 400)
        heights = [float(jet.track(t)[0]) for t in times]
        found |= {
            "jet after touchdown [s]": jet.risen - drop.landed,
            "jet top height [m]": max(heights),
            "jet top after touchdown [s]": float(times[int(np.argmax(heights))]) - drop.landed,
        }
    if pair.umbrellas and not pair.merged:
        sheet = pair.umbrellas[0]
        times = np.linspace(sheet.met, sheet.gone, 200)
        radii = [float(sheet.track(t)[0]) for t in times]
        found |= {
            "meeting [s]": sheet.met,
            "meeting height [m]": float(sheet.track(sheet.met)[2]),
            "sheet life [s]": sheet.gone - sheet.met,
            "sheet full after meeting [s]": float(times[int(np.argmax(radii))]) - sheet.met,
            "sheet radius [m]": sheet.peak,
        }
    return found


def coverage(rigs: int = RIGS) -> dict[str, list[float]]:
    """For each quantity, where each hidden rig's value lies among the sampled ones, as a share of them."""
    ranks: dict[str, list[float]] = {}
    drawn = sample_rigs(Belief(), DRAWS)
    for mix in LIQUIDS.values():
        for height_m in HEIGHTS_M:
            setup = Setup(valves=(Valve(nozzle_height_m=height_m),), mix=mix)
            bands = foreseen(forecast(setup, Belief(), PAIR, drawn))
            for seed in range(rigs):
                hidden = HiddenRig.from_seed(1000 + seed)
                luck = Luck.of_shot(hidden, 1000 + seed, 1, 2)
                alone = replace(PAIR, drops=PAIR.drops[:1])
                seen = happened(*(happen([hidden], luck, setup, s, [hidden.head_m]) for s in (alone, PAIR)))
                for name, value in seen.items():
                    known = bands[name][np.isfinite(bands[name])]
                    if len(known) > DRAWS / 10:
                        ranks.setdefault(name, []).append(float(np.mean(known < value)))
    return ranks


def run() -> Iterator[str]:
    """Print the coverage of each quantity."""
    low, high = (1 - BAND) / 2, (1 + BAND) / 2
    yield f"{RIGS} hidden rigs, {len(HEIGHTS_M)} heights, {len(LIQUIDS)} liquids; share inside the {BAND:.0%} band"
    for name, ranks in coverage().items():
        inside = float(np.mean([low <= rank <= high for rank in ranks]))
        where = f"{inside:5.0%} of {len(ranks):4}, median rank {np.median(ranks):.2f}"
        yield f"{name:30} {where}   bound {BAND:.0%}: {verdict(-inside, -BAND)}"
