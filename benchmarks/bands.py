"""How often what hidden rigs do lies inside the 90 % band that the untaught forecast gives, event by event.

Trains of up to three drops: alone, on the jet, into the open crater, onto what the second has left, on calm water. An
event counts where the hidden rig shows it and a tenth of the sampled rigs do.
"""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from benchmarks.timing import verdict
from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.splashes import Splash, Umbrella
from ondine.bench.simulated.world import Happening, happen
from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import sample_rigs
from ondine.core.forecast.train import On
from ondine.core.forecast.whole import Forecast, forecast
from ondine.core.physics.splash import jet_rise_s, jet_top_m
from ondine.core.setup import Mix, Setup, Valve
from ondine.core.timing.sequence import Pulse, Sequence

RIGS, DRAWS, BAND = 12, 1024, 0.9
HEIGHTS_M = (0.18, 0.25, 0.365, 0.45)
LIQUIDS = {
    "water": Mix(),
    "glycerine 15 %": Mix(glycerine_mass_fraction=0.15),
    "glycerine 40 %": Mix(glycerine_mass_fraction=0.40),
    "milk 5 %": Mix(milk_mass_fraction=0.05),
}
TRAINS_MS = ((0,), (0, 95), (0, 95, 150), (0, 50), (0, 50, 145), (0, 600, 695))
OPEN_US = 22_000


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
            found["crown after touchdown [s]"] = 0.45 * (cavity.closed - cavity.opened)
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
    times = np.linspace(sheet.met, sheet.gone, 200)
    radii = [float(sheet.track(t)[0]) for t in times]
    return {
        f"meets the {sheet.on} [s]": sheet.met,
        f"meets the {sheet.on}, height [m]": float(sheet.track(sheet.met)[2]),
        "sheet life [s]": sheet.gone - sheet.met,
        "sheet full after meeting [s]": float(times[int(np.argmax(radii))]) - sheet.met,
        "sheet radius [m]": sheet.peak,
    }


def coverage(rigs: int = RIGS, tables: int | None = None) -> dict[str, list[float]]:
    """For each quantity, where each hidden rig's value lies among the sampled ones, as a share of them.

    tables : how many of the liquids and of the heights are tried, None for all.
    """
    ranks: dict[str, list[float]] = {}
    drawn = sample_rigs(Belief(), DRAWS)
    trains = [Sequence.with_one_flash(tuple(Pulse(ms * 1000, OPEN_US) for ms in train), 0) for train in TRAINS_MS]
    for mix in list(LIQUIDS.values())[:tables]:
        for height_m in HEIGHTS_M[:tables]:
            setup = Setup(valves=(Valve(nozzle_height_m=height_m),), mix=mix)
            bands = [foreseen(forecast(setup, Belief(), train, drawn)) for train in trains]
            for seed in range(rigs):
                hidden = HiddenRig.from_seed(1000 + seed)
                luck = Luck.of_shot(hidden, 1000 + seed, 1, 3)
                calm = replace(luck, aside_m=np.zeros(3))
                for train, band in zip(trains, bands, strict=True):
                    what = happen([hidden], calm, setup, train, [hidden.head_m])
                    if not what.merged:
                        _rank(ranks, happened(what), band)
    return ranks


def _rank(ranks: dict[str, list[float]], seen: dict[str, float], bands: dict[str, np.ndarray]) -> None:
    for name, value in seen.items():
        known = bands[name][np.isfinite(bands[name])]
        if len(known) > DRAWS / 10:
            ranks.setdefault(name, []).append(float(np.mean(known < value)))


def run(small: bool = False) -> Iterator[str]:
    """Print the coverage of each quantity."""
    low, high = (1 - BAND) / 2, (1 + BAND) / 2
    yield (
        f"{RIGS} hidden rigs, {len(HEIGHTS_M)} heights, {len(LIQUIDS)} liquids, {len(TRAINS_MS)} trains; "
        f"share inside the {BAND:.0%} band"
    )
    for name, ranks in sorted((coverage(1, 1) if small else coverage()).items()):
        inside = float(np.mean([low <= rank <= high for rank in ranks]))
        where = f"{inside:5.0%} of {len(ranks):4}, median rank {np.median(ranks):.2f}"
        yield f"{name:38} {where}   bound {BAND:.0%}: {verdict(-inside, -BAND)}"
