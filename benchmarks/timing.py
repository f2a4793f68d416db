"""Small helpers: time a call, and say how a bound was met."""

import time
from collections.abc import Callable

import numpy as np


def seconds(call: Callable[[], object], repeat: int) -> np.ndarray:
    """Time a call several times."""
    taken = []
    for _ in range(repeat):
        start = time.perf_counter()
        call()
        taken.append(time.perf_counter() - start)
    return np.array(taken)


def verdict(value: float, bound: float) -> str:
    """Say whether a value stays under its bound."""
    return "met" if value <= bound else "MISSED"
