"""Units that people read: lengths in mm, cm or inches, temperatures in °C or °F. Inside, everything is SI and °C."""

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
