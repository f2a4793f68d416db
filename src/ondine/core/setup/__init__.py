"""The table as it stands, and what is believed of it: never edited in place, addressed by its content."""

from ondine.core.setup.box import Box, Counts, FlashFrom
from ondine.core.setup.camera import Camera
from ondine.core.setup.light import DialKind, DurationPoint, Flash, FlashKind, Light, Measure, Place, Tone
from ondine.core.setup.mix import Mix
from ondine.core.setup.rig import Bowl, Method, Rig
from ondine.core.setup.triggers import Release, School, Triggers
from ondine.core.setup.whole import Beliefs, Prior, Setup

__all__ = [
    "Beliefs",
    "Bowl",
    "Box",
    "Camera",
    "Counts",
    "DialKind",
    "DurationPoint",
    "Flash",
    "FlashFrom",
    "FlashKind",
    "Light",
    "Measure",
    "Method",
    "Mix",
    "Place",
    "Prior",
    "Release",
    "Rig",
    "School",
    "Setup",
    "Tone",
    "Triggers",
]
