"""Tells which bench made a shot of an older logbook. Until format 5 Ondine drove none but the simulated one."""

from __future__ import annotations

import json
from pathlib import Path

from ondine.core.setup import BenchKind
from ondine.logbook.intake import open_picture, says_simulated
from ondine.logbook.picture_error import PictureError

BY_HAND = "dialled by hand on "
ONLY_SIMULATED = ("flash not ready", "flash off", "the shutter was shut", "The reservoir of the simulated bench")
"""Words of reports that no other bench could give."""

DEMO_SETUP = "Tidal Mill"


def bench_of_shot(report: object, flash_report_us: object, setup: object, picture: object) -> BenchKind:
    """Return the kind of bench that a shot's report, picture or set-up tells, as the file holds them; else UNKNOWN."""
    words = str(report or "")
    if words.startswith(BY_HAND):
        return BenchKind.BY_HAND
    if flash_report_us is not None or words.startswith(ONLY_SIMULATED):
        return BenchKind.SIMULATED
    if picture is not None and _is_simulated(str(picture)):
        return BenchKind.SIMULATED
    name, has_box = _setup_tells(str(setup or ""))
    if has_box:
        return BenchKind.BY_HAND
    return BenchKind.SIMULATED if name == DEMO_SETUP else BenchKind.UNKNOWN


def _is_simulated(picture: str) -> bool:
    try:
        with open_picture(Path(picture)) as image:
            return says_simulated(image.getexif())
    except PictureError:
        return False


def _setup_tells(content: str) -> tuple[str, bool]:
    try:
        found = json.loads(content)
    except (ValueError, RecursionError):
        return "", False
    if not isinstance(found, dict):
        return "", False
    box = found.get("box")
    return str(found.get("name")), isinstance(box, dict) and box.get("in_use") is True
