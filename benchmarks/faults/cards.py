"""Cards with a wrong clock, frames missing, strays and odd files; taken in twice, before and after they are full."""

from __future__ import annotations

import random
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from benchmarks.faults import Tally
from benchmarks.faults.pictures import WAYS
from benchmarks.faults.victim import AT, real_jpeg
from benchmarks.log.cards import made_card
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.logbook.card import read_card
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.studio.card_import import matched, take_in

SHOTS, ODD_FILES = 60, 6
FOUND_SHARE = 0.95


def run(count: int, seed: int) -> Tally:
    """Take in `count` cards: some of the frames first, then all of them."""
    tally, dice = Tally("cards taken in twice"), random.Random(seed)
    for number in range(count):
        tally.tried += 1
        with tempfile.TemporaryDirectory() as folder:
            fault = _once(Path(folder), np.random.default_rng((seed, number)), dice, tally)
        if fault:
            tally.faults.append(f"card {number}: {fault}")
    return tally


def _once(folder: Path, rng: np.random.Generator, dice: random.Random, tally: Tally) -> str:
    made = made_card(rng, SHOTS)
    book = Logbook.open(folder / "log.ondine")
    plan = Plan(START, TIDAL_MILL)
    book.shots.add_history(
        PastShot("Evening", AT + timedelta(seconds=float(s)), plan, bench=BenchKind.BY_HAND) for s in made.shots_s
    )
    numbers = sorted(shot.id for shot in book.shots.newest(SHOTS))
    card = folder / "card"
    card.mkdir()
    truth: dict[str, int] = {}

    def written(frames: range) -> None:
        for frame in frames:
            name = f"{frame:04d}.jpg"
            shade = np.full((8, 12, 3), (frame * 7) % 256, np.uint8)
            shade[0, 0] = frame >> 8, frame & 255, 7
            at = AT.replace(tzinfo=UTC) + timedelta(seconds=float(made.frames_s[frame]))
            real_jpeg(card / name, shade, TIDAL_MILL.camera, at if made.fractions else at.replace(microsecond=0))
            if made.truth[frame] >= 0:
                truth[name] = numbers[made.truth[frame]]

    count = len(made.frames_s)
    first = dice.randrange(count // 3, count)
    for frames in (range(first), range(first, count)):
        written(frames)
        for n in range(ODD_FILES):
            dice.choice(WAYS)(card / f"odd-{frames.start}-{n}.jpg", dice)
        found = matched(book, read_card(card))
        take_in(
            BenchKind.BY_HAND, found, lambda facts, shot, sure: book.pictures.give(facts, shot, sure, datetime.now(UTC))
        )
    shots = book.shots.newest(SHOTS)
    book.close()
    had = {shot.picture.name: (shot.id, shot.picture_sure) for shot in shots if shot.picture is not None}
    wrong = [name for name, (shot, sure) in had.items() if sure and truth.get(name) != shot]
    tally.notes["pictures at their shots"] = tally.notes.get("pictures at their shots", 0) + len(had) - len(wrong)
    if wrong:
        return f"sure and wrong: {wrong}"
    right = sum(name in had and had[name][0] == shot for name, shot in truth.items())
    return "" if right >= FOUND_SHARE * len(truth) else f"{right} of {len(truth)} pictures found"
