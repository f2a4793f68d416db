"""What falls: the parts of the liquid, its temperature, and what the user has measured of it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ondine.core.physics import liquid
from ondine.core.physics.liquid import Liquid, WettingAgent
from ondine.core.setup.fields import colour, number, plain


@dataclass(frozen=True)
class Mix:
    """Shares by mass [1], the rest is water. A measured value, where there is one, wins over the computed one."""

    glycerine_mass_fraction: float = number(0.0, 0.0, 1.0, "Glycerine")
    milk_mass_fraction: float = number(0.0, 0.0, 1.0, "Milk")
    cream_mass_fraction: float = number(0.0, 0.0, 1.0, "Cream")
    gum_mass_fraction: float = number(0.0, 0.0, 0.01, "Gum thickener")
    gum_stood_h: float = number(12.0, 0.0, 240.0, "Hours the gum has stood")
    dye_mass_fraction: float = number(0.0, 0.0, 0.2, "Dye")
    tint: str = colour("#ffffff", "Colour of the drops")
    temperature_c: float = number(20.0, 0.0, 40.0, "Temperature")
    measured_density_kg_m3: float | None = number(None, 500.0, 2000.0, "Measured density")
    measured_viscosity_pa_s: float | None = number(None, 1e-4, 10.0, "Measured viscosity")
    measured_surface_tension_n_m: float | None = number(None, 5e-3, 0.1, "Measured surface tension")
    wetting_agent: WettingAgent = plain(WettingAgent.NONE, "Soap or rinse aid")

    def liquid(self) -> Liquid:
        """Return its properties; what was measured wins. Raises ValueError outside the formulas' range."""
        made = self.computed_liquid()
        if self.measured_viscosity_pa_s:
            # One measured number says nothing of how the liquid thins under shear.
            made = replace(made, viscosity_pa_s=self.measured_viscosity_pa_s, gum_consistency_pa_sn=0.0)
        return replace(
            made,
            density_kg_m3=self.measured_density_kg_m3 or made.density_kg_m3,
            surface_tension_n_m=self.measured_surface_tension_n_m or made.surface_tension_n_m,
        )

    def computed_liquid(self) -> Liquid:
        """Return its properties as they follow from its parts. Raises ValueError outside the formulas' range."""
        return liquid.mixture(
            self.glycerine_mass_fraction,
            self.milk_mass_fraction,
            self.cream_mass_fraction,
            self.gum_mass_fraction,
            self.gum_stood_h,
            self.dye_mass_fraction,
            self.temperature_c,
            self.wetting_agent,
        )
