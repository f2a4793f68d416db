"""A belief with round numbers, for tests that reckon with them: what two sittings of single drops and a weighing could
teach of the demo's rig.
"""

from ondine.core.belief.priors import Belief, Prior
from ondine.core.forecast.plan import Plan
from ondine.demo.scenario import MILL_RACE, RACE, START, TIDAL_MILL

TAUGHT = Belief(
    lag_s=Prior(9.2e-3, 1.0e-3),
    outlet_factor=Prior(1.28, 0.012),
    momentum_factor=Prior(1.0, 0.02),
    flow_factor=Prior(1.0, 0.015),
    height_error_m=Prior(0.0, 1e-3),
    merge_ratio=Prior(0.40, 0.06),
    energy_share=Prior(0.50, 0.03),
    crown_time_factor=Prior(1.1, 0.06),
    jet_delay_factor=Prior(1.74, 0.03),
    jet_speed_factor=Prior(2.56, 0.1),
    jet_slowing_factor=Prior(1.09, 0.04),
    bead_time_factor=Prior(2.1, 0.1),
    tip_mass_share=Prior(1.4, 0.2),
    sheet_time_factor=Prior(1.15, 0.08),
    sheet_peak_share=Prior(0.51, 0.03),
    sheet_width_factor=Prior(1.0, 0.06),
)

IN_HAND = Plan(START, TIDAL_MILL, TAUGHT)
RACE_IN_HAND = Plan(RACE, MILL_RACE, TAUGHT)
