"""What the liquid is like: density, viscosity, surface tension and opacity of what photographers mix."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

WATER_RANGE_C = (0.0, 40.0)
"""Temperatures for which the water formulas hold [°C]."""


DROP_AGE_S, IMPACT_AGE_S, SHEET_AGE_S = 0.015, 0.01, 0.005
"""How old a surface is, about, when a drop lets go, when a crater is open, and when a sheet is wide: milk and soap have
not yet come to it.
"""


class LiquidError(ValueError):
    """A liquid that no formula covers; the text says why, for the user. With it nothing can be foreseen."""


class WettingAgent(StrEnum):
    """What lowers the surface tension of the whole mix on purpose."""

    NONE = "none"
    SOAP = "soap"
    RINSE = "rinse aid"


@dataclass(frozen=True)
class Liquid:
    """Properties of one liquid at one temperature.

    `viscosity_pa_s` is that at the shear rate of an impact; `surface_tension_n_m` that of a surface at rest.
    Gum thins under shear: `gum_consistency_pa_sn` K and `gum_index` n of K·rate^(n - 1), which is part of the
    viscosity; its threads spring back within `relaxation_s`. A fresh surface has `fresh_tension_n_m` (None: as at
    rest) and comes to rest within `settles_s`.
    """

    density_kg_m3: float
    viscosity_pa_s: float
    surface_tension_n_m: float
    gum_consistency_pa_sn: float = 0.0
    gum_index: float = 1.0
    relaxation_s: float = 0.0
    fresh_tension_n_m: float | None = None
    settles_s: float = 0.0

    def viscosity_at(self, shear_rate_s: ArrayLike) -> Floats:
        """Viscosity at a shear rate [1/s], of any shape. Returns the same shape [Pa·s]."""
        rate = np.maximum(np.asarray(shear_rate_s, dtype=float), 1e-3)
        if not self.gum_consistency_pa_sn:
            return np.full(rate.shape, self.viscosity_pa_s)
        thinning = self.gum_index - 1
        gum = self.gum_consistency_pa_sn * (rate**thinning - IMPACT_SHEAR_RATE_S**thinning)
        return np.asarray(self.viscosity_pa_s + gum)

    def aged(self, age_s: float) -> Liquid:
        """Return the same liquid with the surface tension that a surface of an age has [s].

        The tension falls from that of a fresh surface to that at rest as exp(-age/settles_s): milk's proteins and soap
        must first come to the surface. Time constants from memory, medium to low confidence.
        """
        if self.fresh_tension_n_m is None:
            return self
        rest = self.surface_tension_n_m
        tension = rest + (self.fresh_tension_n_m - rest) * math.exp(-age_s / self.settles_s)
        return replace(self, surface_tension_n_m=tension, fresh_tension_n_m=None)


def water_density_kg_m3(temperature_c: ArrayLike) -> Floats:
    """Density of air-free water at 1 atm.

    temperature_c : [°C], any shape, 0 to 40. Returns the same shape [kg/m3].
    Kell 1975, J. Chem. Eng. Data 20:97, eq. 16 (from memory; within 0.01 % of IAPWS-95, see tests).
    """
    t = np.asarray(temperature_c, dtype=float)
    numerator = 999.83952 + t * (
        16.945176 + t * (-7.9870401e-3 + t * (-46.170461e-6 + t * (105.56302e-9 - 280.54253e-12 * t)))
    )
    return np.asarray(numerator / (1 + 16.879850e-3 * t))


def water_viscosity_pa_s(temperature_c: ArrayLike) -> Floats:
    """Dynamic viscosity of water at 1 atm.

    temperature_c : [°C], any shape, 0 to 40. Returns the same shape [Pa·s].
    IAPWS SR6-08(2011), simplified liquid equation (from memory; within 0.5 % of IAPWS 2008, see tests).
    """
    reduced = (np.asarray(temperature_c, dtype=float) + 273.15) / 300.0
    micro = 280.68 * reduced**-1.9 + 511.45 * reduced**-7.7 + 61.131 * reduced**-19.6 + 0.45903 * reduced**-40.0
    return np.asarray(micro * 1e-6)


def water_surface_tension_n_m(temperature_c: ArrayLike) -> Floats:
    """Surface tension of water against its vapour.

    temperature_c : [°C], any shape, 0 to 40. Returns the same shape [N/m].
    IAPWS R1-76(2014).
    """
    tau = 1 - (np.asarray(temperature_c, dtype=float) + 273.15) / 647.096
    return np.asarray(0.2358 * tau**1.256 * (1 - 0.625 * tau))


def glycerine_water_viscosity_pa_s(glycerine_mass_fraction: ArrayLike, temperature_c: ArrayLike) -> Floats:
    """Dynamic viscosity of a glycerine-water mix.

    glycerine_mass_fraction : [1], 0 to 1; temperature_c : [°C]; they broadcast. Returns [Pa·s].
    Cheng 2008, Ind. Eng. Chem. Res. 47:3285. Within 3.5 % of Segur & Oberstar 1951 (see tests).
    """
    c = np.asarray(glycerine_mass_fraction, dtype=float)
    t = np.asarray(temperature_c, dtype=float)
    water = 1.790e-3 * np.exp((-1230 - t) * t / (36100 + 360 * t))
    glycerine = 12.1 * np.exp((-1233 + t) * t / (9900 + 70 * t))
    a = 0.705 - 0.0017 * t
    b = (4.9 + 0.036 * t) * a**2.5
    alpha = 1 - c + a * b * c * (1 - c) / (a * c + b * (1 - c))
    return np.asarray(water**alpha * glycerine ** (1 - alpha))


# Bosart & Snoddy, glycerine-water at 20 °C, 0 to 100 % in steps of 10 (from memory, high confidence).
_BOSART_SNODDY_KG_M3 = (998.2, 1022.1, 1046.9, 1072.7, 1099.3, 1126.3, 1153.8, 1181.25, 1208.5, 1235.1, 1261.08)


def glycerine_water_density_kg_m3(glycerine_mass_fraction: ArrayLike, temperature_c: ArrayLike) -> Floats:
    """Density of a glycerine-water mix.

    glycerine_mass_fraction : [1], 0 to 1; temperature_c : [°C]; they broadcast. Returns [kg/m3].
    Bosart & Snoddy's table at 20 °C, moved in temperature by water's own expansion and by glycerine's
    0.654 kg/m3 per kelvin (Cheng 2008), weighted by mass.
    """
    c = np.asarray(glycerine_mass_fraction, dtype=float)
    t = np.asarray(temperature_c, dtype=float)
    at_20_c = np.interp(c, np.linspace(0, 1, 11), _BOSART_SNODDY_KG_M3)
    water_shift = water_density_kg_m3(t) - water_density_kg_m3(20.0)
    return np.asarray(at_20_c + (1 - c) * water_shift - c * 0.654 * (t - 20.0))


def glycerine_water_surface_tension_n_m(glycerine_mass_fraction: ArrayLike, temperature_c: ArrayLike) -> Floats:
    """Surface tension of a glycerine-water mix.

    glycerine_mass_fraction : [1], 0 to 1; temperature_c : [°C]; they broadcast. Returns [N/m].
    Water's value lowered linearly to 63.4 mN/m for pure glycerine at 20 °C (handbook value, from memory).
    """
    c = np.asarray(glycerine_mass_fraction, dtype=float)
    water = water_surface_tension_n_m(temperature_c)
    return np.asarray(water * (1 - c * (1 - 63.4e-3 / 72.74e-3)))


def milk_viscosity_factor(milk_mass_fraction: float, cream_mass_fraction: float) -> float:
    """How many times thicker milk and cream make what they are mixed into.

    Shares by mass [1]. Whole milk is twice, cream of 30 % fat about ten times as thick as water at 20 °C, and in
    between the logarithm goes with the share. Handbook values from memory, medium confidence.
    """
    return float(2.0**milk_mass_fraction * 10.0**cream_mass_fraction)


GUM_HYDRATES_H = 1.5
"""Time constant of a gum taking up water, stirred, at room temperature. Common practice: leave it overnight."""


def gum_hydrated_share(stood_h: float) -> float:
    """Share of the gum that has taken up water, some hours after it was stirred in [h]. Returns [1]."""
    return 1 - math.exp(-stood_h / GUM_HYDRATES_H)


def gum_power_law(gum_mass_fraction: float, stood_h: float) -> tuple[float, float]:
    """Consistency K [Pa·s^n] and flow index n [1] of gum-thickened water, stress = K·rate^n.

    gum_mass_fraction : xanthan-like gum by mass [1]; stood_h : hours since it was stirred in [h].
    Round figures for xanthan in the literature (0.1 %: 0.05 and 0.55; 0.5 %: 1.4 and 0.27), from memory, low
    confidence: measure your own.
    """
    percent = 100 * gum_mass_fraction * gum_hydrated_share(stood_h)
    return 5.5 * percent**2, 1 / (1 + 4.5 * percent**0.75)


IMPACT_SHEAR_RATE_S = 560.0
"""Speed over diameter of a usual drop as it hits (2.5 m/s, 4.5 mm): the shear rate that decides [1/s]."""


def gum_viscosity_pa_s(gum_mass_fraction: float, stood_h: float, shear_rate_s: float = IMPACT_SHEAR_RATE_S) -> float:
    """What gum adds to the viscosity at a shear rate, K·rate^(n - 1).

    gum_mass_fraction : [1]; stood_h : [h]; shear_rate_s : [1/s]. Returns [Pa·s].
    """
    consistency, index = gum_power_law(gum_mass_fraction, stood_h)
    return float(consistency * shear_rate_s ** (index - 1))


MILK_TENSION_N_M, MILK_TENSION_HALF = 47e-3, 0.02
"""Surface tension of milk, and the share of milk in water that lowers it half way (from memory, low confidence)."""

MILK_SETTLES_S = 0.03
"""How long milk's proteins take to come to a fresh surface: a sheet 5 ms old has the tension of water, less a few mN/m
(from memory, medium confidence).
"""

AGENT_TENSION_N_M = {WettingAgent.SOAP: 30e-3, WettingAgent.RINSE: 27e-3}
AGENT_SETTLES_S = {WettingAgent.SOAP: 0.02, WettingAgent.RINSE: 0.006}
"""A drop of dish soap in a bowl, or some rinse aid: tension at rest, and how soon a fresh surface has it (from memory,
low confidence).
"""

GUM_RELAXATION_S = 0.1
"""Relaxation time of gum at a tenth of a per cent, in proportion (from memory, low confidence)."""

MILK_DENSITY_KG_M3, CREAM_DENSITY_KG_M3 = 1030.0, 995.0
"""Whole milk, and cream of 30 % fat, at 20 °C (handbook, from memory)."""

MILK_SCATTERING_PER_M = 2200.0
"""How much light whole milk turns aside, reduced scattering in the middle of the visible (from memory, medium)."""

CREAM_SCATTERING_PER_M = 9000.0


def opacity(path_m: ArrayLike, milk_mass_fraction: float, cream_mass_fraction: float) -> Floats:
    """Share of straight light that milk or cream takes out over a path, 1 - exp(-µ·path) (Beer-Lambert).

    path_m : [m], any shape; shares by mass [1]. Returns the same shape [1].
    """
    scattering = MILK_SCATTERING_PER_M * milk_mass_fraction + CREAM_SCATTERING_PER_M * cream_mass_fraction
    return np.asarray(1 - np.exp(-scattering * np.asarray(path_m, dtype=float)))


@lru_cache(maxsize=256)
def mixture(
    glycerine: float,
    milk: float,
    cream: float,
    gum: float,
    gum_stood_h: float,
    dye: float,
    temperature_c: float,
    agent: WettingAgent = WettingAgent.NONE,
) -> Liquid:
    """Return a mix as a `Liquid`. Shares by mass [1], the rest is water; gum_stood_h [h]; temperature_c [°C].

    Glycerine and water by their own formulas; milk and cream thicken them and lower the surface tension, and so does a
    wetting agent; gum adds its viscosity; dye counts as water. Raises LiquidError for shares that cannot be.
    """
    shares = (glycerine, milk, cream, gum, dye)
    if min(shares) < 0 or sum(shares) > 1 + 1e-12:
        raise LiquidError(
            f"The parts of the liquid make {100 * sum(shares):.0f} %: give less than 100 %, the rest is water."
        )
    thin = 1 - milk - cream - gum
    # What the milk stands in: glycerine and water alone.
    base = glycerine_water(glycerine / thin if thin > 0 else 0.0, temperature_c)
    volume = (1 - milk - cream) / base.density_kg_m3 + milk / MILK_DENSITY_KG_M3 + cream / CREAM_DENSITY_KG_M3
    thickened = base.viscosity_pa_s * milk_viscosity_factor(milk, cream)
    fat, fresh = milk + 3 * cream, base.surface_tension_n_m
    at_rest = fresh - max((fresh - MILK_TENSION_N_M) * fat / (fat + MILK_TENSION_HALF), 0.0)
    settles_s = MILK_SETTLES_S
    if agent in AGENT_TENSION_N_M:
        at_rest, settles_s = min(at_rest, AGENT_TENSION_N_M[agent]), AGENT_SETTLES_S[agent]
    made = Liquid(
        1 / volume,
        thickened,
        at_rest,
        fresh_tension_n_m=fresh if at_rest < fresh else None,
        settles_s=settles_s if at_rest < fresh else 0.0,
    )
    return _thickened(made, gum, gum_stood_h) if gum else made


def _thickened(made: Liquid, gum: float, gum_stood_h: float) -> Liquid:
    """Return a liquid with gum in it."""
    consistency, index = gum_power_law(gum, gum_stood_h)
    return replace(
        made,
        viscosity_pa_s=made.viscosity_pa_s + gum_viscosity_pa_s(gum, gum_stood_h),
        gum_consistency_pa_sn=consistency,
        gum_index=index,
        relaxation_s=GUM_RELAXATION_S * gum / 1e-3 * gum_hydrated_share(gum_stood_h),
    )


@lru_cache(maxsize=64)
def glycerine_water(glycerine_mass_fraction: float, temperature_c: float) -> Liquid:
    """Return the mix as a `Liquid`; a fraction of 0 is pure water, with water's own formulas.

    glycerine_mass_fraction : [1], 0 to 1; temperature_c : [°C], 0 to 40.
    Raises LiquidError outside 0 to 1 or 0 to 40 °C.
    """
    if not 0 <= glycerine_mass_fraction <= 1:
        raise LiquidError(f"A glycerine share of {glycerine_mass_fraction:.0%} is not possible: give 0 to 100 %.")
    low, high = WATER_RANGE_C
    if not low <= temperature_c <= high:
        raise LiquidError(f"The liquid's temperature must be {low:.0f} to {high:.0f} °C, not {temperature_c:g} °C.")
    if glycerine_mass_fraction == 0:
        viscosity = water_viscosity_pa_s(temperature_c)
        density = water_density_kg_m3(temperature_c)
    else:
        viscosity = glycerine_water_viscosity_pa_s(glycerine_mass_fraction, temperature_c)
        density = glycerine_water_density_kg_m3(glycerine_mass_fraction, temperature_c)
    tension = glycerine_water_surface_tension_n_m(glycerine_mass_fraction, temperature_c)
    return Liquid(float(density), float(viscosity), float(tension))
