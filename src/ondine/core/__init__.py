"""Arithmetic and judgement: NumPy only. No Qt, no files, no clock, no devices, no unseeded randomness.

SI inside; times of a sequence are whole microseconds. Every function broadcasts over arrays, because
uncertainty is carried as a few hundred sampled rigs evaluated at once.
"""
