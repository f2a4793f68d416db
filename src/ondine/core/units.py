"""Units that people read, and how a field of a set-up is shown in them. Inside, everything is SI and °C.

The unit of a field follows from the suffix of its name; a few fields are read in another one by habit.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

MM_PER_INCH = 25.4
"""Exact since 1959."""


class Length(StrEnum):
    """What lengths are shown in."""

    MM = "mm"
    CM = "cm"
    INCH = "in"


class Temperature(StrEnum):
    """What temperatures are shown in."""

    CELSIUS = "°C"
    FAHRENHEIT = "°F"


_MM = {Length.MM: 1.0, Length.CM: 10.0, Length.INCH: MM_PER_INCH}


@dataclass(frozen=True)
class Units:
    """The units chosen."""

    length: Length = Length.MM
    temperature: Temperature = Temperature.CELSIUS

    def length_shown(self, length_m: float) -> float:
        """Return a length [m] as a number of the chosen unit."""
        return length_m * 1000 / _MM[self.length]

    def length_m(self, shown: float) -> float:
        """Return a number of the chosen unit as a length [m]."""
        return shown * _MM[self.length] / 1000

    def temperature_shown(self, temperature_c: float) -> float:
        """Return a temperature [°C] as a number of the chosen unit."""
        return temperature_c if self.temperature is Temperature.CELSIUS else temperature_c * 9 / 5 + 32

    def temperature_c(self, shown: float) -> float:
        """Return a number of the chosen unit as a temperature [°C]."""
        return shown if self.temperature is Temperature.CELSIUS else (shown - 32) * 5 / 9

    def length_words(self, length_m: float, digits: int = 0) -> str:
        """Write a length with its unit; `digits` after the point are for millimetres, the others follow."""
        more = {Length.MM: 0, Length.CM: 1, Length.INCH: 2}[self.length]
        return f"{self.length_shown(length_m):.{digits + more}f} {self.length}"

    def temperature_words(self, temperature_c: float) -> str:
        """Write a temperature with its unit."""
        return f"{self.temperature_shown(temperature_c):.0f} {self.temperature}"


@dataclass(frozen=True)
class Quantity:
    """A unit: shown = inside·factor + offset, with digits after the point and the fine and coarse step, as shown."""

    unit: str
    factor: float = 1.0
    decimals: int = 0
    fine: float = 1.0
    coarse: float = 5.0
    offset: float = 0.0

    def shown(self, value: float) -> float:
        """Return a value as it is read."""
        return value * self.factor + self.offset

    def inside(self, shown: float) -> float:
        """Return what is meant by a number that was read."""
        return (shown - self.offset) / self.factor

    def words(self, value: float) -> str:
        """Write a value with its unit."""
        return f"{self.shown(value):.{self.decimals}f} {self.unit}".strip()


_BY_SUFFIX = {
    "_kg_m3": Quantity("kg/m³", 1, 0, 1, 10),
    "_pa_s": Quantity("mPa·s", 1e3, 2, 0.05, 0.5),
    "_n_m": Quantity("mN/m", 1e3, 1, 0.5, 5),
    "_m3_s": Quantity("µL/ms", 1e6, 3, 0.01, 0.1),
    "_mass_fraction": Quantity("%", 100, 1, 1, 5),
    "_share": Quantity("%", 100, 0, 1, 5),
    "_duty": Quantity("%", 100, 0, 1, 5),
    "_us": Quantity("ms", 1e-3, 1, 1, 5),
    "_s": Quantity("ms", 1e3, 1, 0.5, 5),
    "_k": Quantity("K", 1, 0, 100, 500),
    "_mired": Quantity("mired", 1, 0, 5, 20),
    "_stops": Quantity("stops", 1, 1, 1 / 3, 1),
    "_mm": Quantity("mm", 1, 0, 5, 20),
    "_h": Quantity("h", 1, 1, 0.5, 4),
    "_px": Quantity("px", 1, 0, 10, 100),
    "_deg": Quantity("°", 1, 0, 1, 5),
}

_BY_NAME = {
    "gum_mass_fraction": Quantity("%", 100, 2, 0.01, 0.1),
    "dye_mass_fraction": Quantity("%", 100, 2, 0.1, 1),
    "exposure_s": Quantity("s", 1, 3, 0.1, 0.5),
    "f_number": Quantity("", 1, 1, 1, 4),
    "magnification": Quantity("×", 1, 3, 0.01, 0.05),
    "pupil_ratio": Quantity("", 1, 2, 0.05, 0.2),
    "max_iso": Quantity("", 1, 0, 100, 400),
    "blur_target_px": Quantity("px", 1, 1, 0.5, 2),
    "guide_number_m": Quantity("m", 1, 0, 1, 5),
    "recycle_full_s": Quantity("s", 1, 1, 0.1, 1),
    "battery": Quantity("%", 100, 0, 5, 20),
    "iso": Quantity("", 1, 0, 100, 400),
    "max_drops": Quantity("", 1, 0, 1, 1),
    "max_valves": Quantity("", 1, 0, 1, 1),
    "max_flashes": Quantity("", 1, 0, 1, 1),
    # Kept from 0, shown from 1.
    "output": Quantity("", 1, 0, 1, 1, offset=1),
}

_MICRO = Quantity("ms", 1e3, 2, 0.01, 0.1)
_FINE_TIMES = ("radio", "slave", "wire")
_SMALL_LENGTHS = ("orifice_diameter_m", "outlet_diameter_m", "sensor_width_m", "focal_length_m")


def quantity_of(path: str, units: Units) -> Quantity:
    """Return how the number at a path is shown in the units chosen."""
    name = path.rsplit(".", 1)[-1]
    if name in _BY_NAME:
        return _BY_NAME[name]
    if name.startswith(_FINE_TIMES) and name.endswith("_s"):
        return _MICRO
    if name in _SMALL_LENGTHS:
        # Sensors, lenses and orifices are sold in millimetres everywhere.
        return Quantity("mm", 1e3, 1, 0.1, 1)
    if name.endswith("_c"):
        return _temperature(units)
    for suffix, known in _BY_SUFFIX.items():
        if name.endswith(suffix):
            return known
    if name.endswith("_m"):
        return _length(units)
    return Quantity("", 1, 2, 0.1, 1)


def _length(units: Units) -> Quantity:
    match units.length:
        case Length.MM:
            return Quantity("mm", 1e3, 0, 1, 5)
        case Length.CM:
            return Quantity("cm", 1e2, 1, 0.1, 0.5)
        case Length.INCH:
            return Quantity("in", 1 / 0.0254, 2, 0.05, 0.25)


def _temperature(units: Units) -> Quantity:
    if units.temperature is Temperature.FAHRENHEIT:
        return Quantity("°F", 9 / 5, 0, 1, 5, offset=32)
    return Quantity("°C", 1, 0, 1, 5)


def value_words(path: str, value: object, units: Units) -> str:
    """Write any value of a set-up as people read it."""
    if value is None:
        return "not measured"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if path.endswith("power") and isinstance(value, float):
        return f"1/{1 / value:.0f}"
    if isinstance(value, int | float):
        return quantity_of(path, units).words(value)
    return str(value)
