"""Constants of the place where drops fall."""

STANDARD_GRAVITY_M_S2 = 9.80665
"""Standard acceleration of free fall (CGPM 1901, exact)."""

US_PER_S = 1_000_000
"""A sequence counts whole microseconds; the physics counts seconds."""
