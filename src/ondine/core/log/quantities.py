"""The figures that every shot of the log has: one list for searching, comparing, the atlas and what is written out."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Origin(StrEnum):
    """Where a figure comes from."""

    COMMANDED = "commanded"
    FORESEEN = "foreseen"
    TABLE = "table"
    LIGHT = "light"
    SAID = "said"


@dataclass(frozen=True)
class Quantity:
    """One figure: a stable `key`, the `name` that people type and read, other names for it, its unit, the decimals
    that are shown, and what it is.
    """

    key: str
    name: str
    unit: str
    decimals: int
    origin: Origin
    says: str
    aliases: tuple[str, ...] = ()

    def words(self, value: float) -> str:
        """Write a value with its unit."""
        if self.key == "power" and 0 < value < 1:
            return f"1/{1 / value:.0f}"
        if self.key == "f_number":
            return f"f/{self.number(value)}"
        return f"{self.number(value)} {self.unit}".rstrip()

    def number(self, value: float) -> str:
        """Write a value without its unit, and without idle zeros."""
        written = f"{value:.{self.decimals}f}"
        written = written.rstrip("0").rstrip(".") if "." in written else written
        return "0" if written == "-0" else written


_C, _F, _T, _L = Origin.COMMANDED, Origin.FORESEEN, Origin.TABLE, Origin.LIGHT

QUANTITIES = (
    Quantity("interval_ms", "interval", "ms", 1, _C, "Start of the first opening to the start of the second"),
    Quantity("gap_ms", "gap", "ms", 1, _C, "First closing to the second opening"),
    Quantity("open_ms", "open time", "ms", 1, _C, "How long the first drop's valve is open", ("open", "first drop")),
    Quantity("second_open_ms", "second open time", "ms", 1, _C, "The same of the second drop", ("second drop",)),
    Quantity("flash_ms", "flash", "ms", 1, _C, "The first flash, from the trigger"),
    Quantity("drops", "drops", "", 0, _C, "How many drops"),
    Quantity(
        "after_touchdown_ms", "after touchdown", "ms", 1, _F, "The first flash, from the foreseen first touchdown"
    ),
    Quantity("after_meeting_ms", "after meeting", "ms", 1, _F, "The first flash, from the foreseen first meeting"),
    Quantity(
        "crater_clocks", "crater clocks", "", 2, _F,
        "The first flash after touchdown, in the time that the first drop's crater takes as its measure",
    ),
    Quantity("size_ratio", "size ratio", "", 2, _F, "Second drop to first drop, by diameter", ("ratio",)),
    Quantity("diameter_mm", "diameter", "mm", 1, _F, "The first drop, as foreseen"),
    Quantity("height_mm", "height", "mm", 0, _T, "Highest nozzle over the water", ("nozzle height",)),
    Quantity("head_mm", "head", "mm", 0, _T, "Liquid over the orifice when the shot was fired"),
    Quantity("viscosity_mpa_s", "viscosity", "mPa·s", 2, _T, "Of what falls"),
    Quantity("temperature_c", "temperature", "°C", 1, _T, "Of what falls"),
    Quantity("power", "power", "", 3, _L, "The first unit's share of its full power"),
    Quantity("f_number", "aperture", "", 1, _L, "As an f-number", ("f",)),
    Quantity("iso", "ISO", "", 0, _L, "Sensitivity"),
    Quantity("exposure_ms", "exposure", "ms", 1, _L, "How long the shutter is open"),
    Quantity("rating", "rating", "", 0, Origin.SAID, "0 to 5", ("rated",)),
)  # fmt: skip

BY_KEY = {quantity.key: quantity for quantity in QUANTITIES}
