"""Lays out the demo's logbook and pictures on first start."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from pathlib import Path

from ondine.core import plain
from ondine.core.belief.priors import Belief
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind
from ondine.core.table.ledger import Ledger
from ondine.core.timing.sequence import Sequence
from ondine.demo import card_evening
from ondine.demo.scenario import NAMED, NOW, PLACE, REFILL_EVERY, SEASON, SEED, TIDAL_MILL, WEIGHED
from ondine.demo.taught import beliefs
from ondine.logbook.intake import read_picture
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook

LOGBOOK_NAME = "tidal-mill.ondine"


def demo_logbook(home: Path) -> Path:
    """Return where the demo's logbook lies in a home folder."""
    return home / LOGBOOK_NAME


def is_installed(home: Path) -> bool:
    """Whether the demo was laid out there before."""
    return demo_logbook(home).exists()


def install_demo(home: Path, progress: Callable[[int, int], None] = lambda done, of: None) -> None:
    """Copy the season's pictures and log its shots; all of it or, if interrupted, nothing.

    `progress(done, of)` is called after each shot.
    """
    home.mkdir(parents=True, exist_ok=True)
    pictures = home / "pictures"
    pictures.mkdir(exist_ok=True)
    (home / "incoming").mkdir(exist_ok=True)
    shutil.copytree(card_evening.FOLDER, home / "card", dirs_exist_ok=True)
    season = json.loads((SEASON / "season.json").read_text(encoding="utf-8"))
    past, known = [], beliefs()
    for done, entry in enumerate(season, start=1):
        target = pictures / entry["picture"]
        shutil.copyfile(SEASON / entry["picture"], target)
        past.append(_past_shot(entry, target, known[entry["belief"]]))
        progress(done, len(season))
    unfinished = home / f"{LOGBOOK_NAME}.part"
    for left in home.glob(f"{unfinished.name}*"):
        # A kill left it half made, with the database's own files beside it.
        left.unlink()
    logbook = Logbook.open(unfinished)
    try:
        logbook.shots.add_history([*past, *_card_evening(known[f"{NOW}{card_evening.TABLE}"])])
        for name, setup in NAMED.items():
            logbook.setups.keep(name, replace(setup, name=name), known[f"{NOW}{name}"], past[-1].at)
        logbook.state.put("weighings", json.dumps(WEIGHED))
        logbook.state.put("bench", BenchKind.SIMULATED)
        logbook.state.put("rig", str(SEED))
        logbook.state.put("ledger", _ledger(past).to_json())
    finally:
        logbook.close()
    unfinished.replace(demo_logbook(home))


def _past_shot(entry: dict[str, object], picture: Path, belief: Belief) -> PastShot:
    return PastShot(
        sitting=str(entry["sitting"]),
        at=datetime.fromisoformat(str(entry["at"])),
        plan=Plan(plain.read(Sequence, entry["sequence"]), NAMED[str(entry["table"])], belief),
        shapes=tuple(entry["shapes"]),  # type: ignore[arg-type]
        rating=int(entry["rating"]),  # type: ignore[call-overload]
        note=str(entry["note"]),
        picture=read_picture(picture),
        place=PLACE,
        temperature_c=TIDAL_MILL.mix.temperature_c,
        bench=BenchKind.SIMULATED,
        keeper=bool(entry["keeper"]),
        labels=tuple(entry["labels"]),  # type: ignore[arg-type]
    )


def _card_evening(belief: Belief) -> list[PastShot]:
    """The shots whose pictures are still on the camera's card."""
    return [
        PastShot(
            sitting=card_evening.NAME,
            at=shot.at,
            plan=Plan(shot.sequence, NAMED[card_evening.TABLE], belief),
            place=PLACE,
            temperature_c=TIDAL_MILL.mix.temperature_c,
            bench=BenchKind.SIMULATED,
        )
        for shot in card_evening.shots()
    ]


def _ledger(past: list[PastShot]) -> Ledger:
    """What has gone into the bowl in the last sitting, and out of the reservoir since it was last filled."""
    ledger = Ledger()
    last = [shot for shot in past if shot.sitting == past[-1].sitting]
    for number, shot in enumerate(last):
        ledger = (ledger if number % REFILL_EVERY else ledger.refilled()).after_shot(
            shot.plan.sequence, shot.plan.setup
        )
    return ledger
