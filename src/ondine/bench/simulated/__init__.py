"""A stand-in for valve, controller, flash and camera: a small world with its own physics.

It shares no formula with `ondine.core`: a predictor that agreed with a copy of itself would prove nothing.
"""
