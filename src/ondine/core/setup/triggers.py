"""What fires what, and how long each link takes."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ondine.core.setup.fields import number, plain


class FlashFiredBy(StrEnum):
    """Who fires the flash."""

    CONTROLLER = "controller fires the flash"
    CAMERA = "camera fires the flash"


class Release(StrEnum):
    """How the shutter is told."""

    WIRE = "wire"
    INFRARED = "infrared"
    HAND = "by hand"


@dataclass(frozen=True)
class Triggers:
    """Each link's lag and its jitter (standard deviation) [s]; a link that is not used does not count."""

    flash_fired_by: FlashFiredBy = plain(FlashFiredBy.CONTROLLER, "Who fires the flash")
    release: Release = plain(Release.WIRE, "How the shutter is told")
    valve_jitter_s: float = number(0.0004, 0.0, 0.1, "Valve, jitter")
    wire_lag_s: float = number(0.002, 0.0, 1.0, "Wire")
    wire_jitter_s: float = number(0.0001, 0.0, 0.5, "Wire, jitter")
    infrared_lag_s: float = number(0.035, 0.0, 1.0, "Infrared")
    infrared_jitter_s: float = number(0.006, 0.0, 0.5, "Infrared, jitter")
    mirror_up: bool = plain(True, "Mirror locked up")
    mirror_lag_s: float = number(0.045, 0.0, 1.0, "Mirror")
    mirror_jitter_s: float = number(0.002, 0.0, 0.5, "Mirror, jitter")
    shutter_lag_s: float = number(0.040, 0.0, 1.0, "Shutter")
    shutter_jitter_s: float = number(0.0015, 0.0, 0.5, "Shutter, jitter")
    radio: bool = plain(False, "Radio to the flash")
    radio_lag_s: float = number(0.0008, 0.0, 1.0, "Radio")
    radio_jitter_s: float = number(0.0001, 0.0, 0.5, "Radio, jitter")
    slave_lag_s: float = number(0.00005, 0.0, 0.1, "Optical slave")
    slave_jitter_s: float = number(0.00001, 0.0, 0.05, "Optical slave, jitter")
    shutter_lead_s: float = number(0.25, 0.0, 10.0, "Shutter opens before the flash")
    sync_speed_s: float = number(1 / 200, 1 / 4000, 1.0, "Sync speed")
