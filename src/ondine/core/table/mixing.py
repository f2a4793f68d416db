"""The mixing bench: from a wish to grams, and what the mix will do."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import sample_rigs
from ondine.core.forecast.whole import Forecast, forecast
from ondine.core.physics.liquid import GUM_HYDRATES_H, glycerine_water, opacity
from ondine.core.physics.splash import jet_top_m
from ondine.core.setup import Bowl, Mix, Setup
from ondine.core.timing.sequence import Sequence

PARTS = ("glycerine", "milk", "cream", "gum", "dye")


def grams(mix: Mix, batch_g: float) -> dict[str, float]:
    """Return the grams of each part, water first, that make a batch of `batch_g` grams."""
    shares = {part: getattr(mix, f"{part}_mass_fraction") for part in PARTS}
    water = max(1 - sum(shares.values()), 0.0)
    return {"water": water * batch_g} | {part: share * batch_g for part, share in shares.items() if share > 0}


def glycerine_for_viscosity(target_pa_s: float, temperature_c: float) -> float:
    """Return the share of glycerine by mass [1] whose mix with water has a viscosity [Pa·s] at a temperature [°C].

    Raises ValueError if neither water is thin enough nor glycerine thick enough.
    """
    low, high = 0.0, 1.0
    thin = glycerine_water(low, temperature_c).viscosity_pa_s
    thick = glycerine_water(high, temperature_c).viscosity_pa_s
    if not thin <= target_pa_s <= thick:
        raise ValueError(
            f"At {temperature_c:.0f} °C glycerine and water reach {thin * 1e3:.2f} to {thick * 1e3:.0f} mPa·s, "
            f"not {target_pa_s * 1e3:g}."
        )
    # Halving: forty steps pin the share down to 1e-12, and the viscosity only ever grows with it.
    for _ in range(40):
        middle = (low + high) / 2
        if glycerine_water(middle, temperature_c).viscosity_pa_s < target_pa_s:
            low = middle
        else:
            high = middle
    return (low + high) / 2


@dataclass(frozen=True)
class Effect:
    """What a liquid does, as ratios to water of the same temperature; `opacity` is over one drop's width [1]."""

    diameter: float
    jet_height: float
    sheet_width: float
    sheet_life: float
    opacity: float
    lacks: str = ""


def effect(setup: Setup, belief: Belief, sequence: Sequence) -> Effect:
    """Compare a mix with water on the mean rig, for the first drop and the first meeting of a sequence."""
    rigs = sample_rigs(belief, 2)
    here = forecast(setup, belief, sequence, rigs)
    plain = replace(setup, mix=Mix(temperature_c=setup.mix.temperature_c))
    there = forecast(plain, belief, sequence, rigs)
    mix = setup.mix
    width = float(here.falls.diameter_m[0, 0])
    return Effect(
        diameter=_ratio(width, float(there.falls.diameter_m[0, 0])),
        jet_height=_ratio(_jet_m(here), _jet_m(there)),
        sheet_width=_ratio(_sheet(here, "widest_m"), _sheet(there, "widest_m")),
        sheet_life=_ratio(_sheet(here, "sheet_life_s"), _sheet(there, "sheet_life_s")),
        opacity=float(opacity(width, mix.milk_mass_fraction, mix.cream_mass_fraction)),
        lacks="" if _jet_m(here) > 0 else "The drop hits too weakly for a jet.",
    )


def _jet_m(what: Forecast) -> float:
    top = float(jet_top_m(what.splashes.jet_m_s[0, 0], what.splashes.jet_slows_m_s2[0, 0]))
    return top if top > 0 else 0.0


def _sheet(what: Forecast, name: str) -> float:
    values = getattr(what.meetings, name)[:, 0]
    found = [float(v) for v in values if v == v]
    return found[0] if found else float("nan")


def _ratio(here: float, there: float) -> float:
    return here / there if there and there == there else float("nan")


def bowl_share(bowl: Bowl, fallen_m3: float) -> float:
    """Share of what is in a brimful bowl that came in as drops, since it was changed [1].

    fallen_m3 : volume of all these drops [m3]. What comes in, the brim lets out mixed: 1 - exp(-fallen/bowl).
    """
    volume = math.pi / 4 * bowl.diameter_m**2 * bowl.depth_m
    return 1 - math.exp(-fallen_m3 / volume)


LIBRARY = {
    "Water": Mix(),
    "Glycerine 15 %, beetroot": Mix(glycerine_mass_fraction=0.15, dye_mass_fraction=0.01, tint="#8c1c3a"),
    "Glycerine 40 %": Mix(glycerine_mass_fraction=0.40),
    "Milk 5 %": Mix(milk_mass_fraction=0.05, tint="#eef1f0"),
    "Whole milk": Mix(milk_mass_fraction=1.0, tint="#fbfaf4"),
    "Milk and cream": Mix(milk_mass_fraction=0.8, cream_mass_fraction=0.2, tint="#fdf8ea"),
    "Gum 0.08 %, overnight": Mix(gum_mass_fraction=0.0008, gum_stood_h=12.0),
}
"""Mixes to start from; one's own are kept beside them."""


def hydrated_share(gum_stood_h: float) -> float:
    """Share of its final thickness that a gum has reached, by the hours it has stood [1]."""
    return 1 - math.exp(-gum_stood_h / GUM_HYDRATES_H)


def cautions_of(mix: Mix) -> tuple[str, ...]:
    """Say what of a mix wants watching: hydration, spoilage, stains."""
    found = []
    if mix.gum_mass_fraction and hydrated_share(mix.gum_stood_h) < 0.95:
        found.append(
            f"The gum has reached {hydrated_share(mix.gum_stood_h):.0%} of its thickness and goes on: "
            "let it stand overnight, or the drops drift."
        )
    if mix.milk_mass_fraction or mix.cream_mass_fraction:
        found.append("Milk spoils: empty and clean everything the same day.")
    if mix.dye_mass_fraction:
        found.append("Dye stains, and colours the bowl a little with every drop.")
    if mix.glycerine_mass_fraction > 0.6:
        found.append("So thick a mix drips slowly and sticks the valve: rinse it warm after each sitting.")
    return tuple(found)


def blended(bowl_tint: str, drop_tint: str, share: float) -> str:
    """Colour of a bowl into which a share of the drops' liquid has come, both given and returned as #rrggbb.

    Dyes multiply: the mean of the logarithms of each channel.
    """
    channels = []
    for place in (1, 3, 5):
        bowl, drop = (max(int(tint[place : place + 2], 16), 1) for tint in (bowl_tint, drop_tint))
        channels.append(round(math.exp((1 - share) * math.log(bowl) + share * math.log(drop))))
    return "#" + "".join(f"{c:02x}" for c in channels)
