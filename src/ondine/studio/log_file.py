"""A file of what went wrong, where programs keep their state: small, rotated, without notes or pictures."""

from __future__ import annotations

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

from ondine.studio.worker import LOG

MOST_BYTES, KEPT = 500_000, 2


def keep_log() -> Path | None:
    """Begin to keep the file; return its place, None where it cannot be kept."""
    from platformdirs import user_state_path

    place = user_state_path("ondine", appauthor=False) / "ondine.log"
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(place, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8", errors="replace")
    except OSError:
        return None
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    # A full disk must not turn one fault into two.
    logging.raiseExceptions = False
    LOG.addHandler(handler)
    LOG.setLevel(logging.INFO)
    LOG.propagate = False
    return place
