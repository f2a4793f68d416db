"""The table as it stands: never edited in place, addressed by its content."""

from ondine.core.setup.bench import SIMULATED_SOFTWARE, BenchKind
from ondine.core.setup.box import Box, Counts, FlashFrom
from ondine.core.setup.camera import Camera
from ondine.core.setup.light import DialKind, DurationPoint, Flash, FlashKind, Light, Measure, Place, Tone
from ondine.core.setup.mix import Mix
from ondine.core.setup.rig import Bowl, Method, Valve
from ondine.core.setup.triggers import FlashFiredBy, Release, Triggers
from ondine.core.setup.whole import Setup

__all__ = [
    "SIMULATED_SOFTWARE",
    "BenchKind",
    "Bowl",
    "Box",
    "Camera",
    "Counts",
    "DialKind",
    "DurationPoint",
    "Flash",
    "FlashFiredBy",
    "FlashFrom",
    "FlashKind",
    "Light",
    "Measure",
    "Method",
    "Mix",
    "Place",
    "Release",
    "Setup",
    "Tone",
    "Triggers",
    "Valve",
]
