"""What the liquid is like: density, viscosity and surface tension of water and glycerine-water."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

WATER_RANGE_C = (0.0, 40.0)
"""Temperatures for which the water formulas hold [°C]."""


@dataclass(frozen=True)
class Liquid:
    """Properties of one liquid at one temperature: `density_kg_m3`, `viscosity_pa_s`, `surface_tension_n_m`."""

    density_kg_m3: float
    viscosity_pa_s: float
    surface_tension_n_m: float


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


@lru_cache(maxsize=64)
def glycerine_water(glycerine_mass_fraction: float, temperature_c: float) -> Liquid:
    """Return the mix as a `Liquid`; a fraction of 0 is pure water, with water's own formulas.

    glycerine_mass_fraction : [1], 0 to 1; temperature_c : [°C], 0 to 40.
    Raises ValueError outside 0 to 1 or 0 to 40 °C.
    """
    if not 0 <= glycerine_mass_fraction <= 1:
        raise ValueError(f"A glycerine share of {glycerine_mass_fraction:.0%} is not possible: give 0 to 100 %.")
    low, high = WATER_RANGE_C
    if not low <= temperature_c <= high:
        raise ValueError(f"The liquid's temperature must be {low:.0f} to {high:.0f} °C, not {temperature_c:g} °C.")
    if glycerine_mass_fraction == 0:
        viscosity = water_viscosity_pa_s(temperature_c)
        density = water_density_kg_m3(temperature_c)
    else:
        viscosity = glycerine_water_viscosity_pa_s(glycerine_mass_fraction, temperature_c)
        density = glycerine_water_density_kg_m3(glycerine_mass_fraction, temperature_c)
    tension = glycerine_water_surface_tension_n_m(glycerine_mass_fraction, temperature_c)
    return Liquid(float(density), float(viscosity), float(tension))
