"""Cards with a wrong clock, against what they were made from."""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np

from benchmarks.log.cards import made_card
from benchmarks.timing import verdict
from ondine.core.log.card_clock import match_card

CARDS, SHOTS = 60, 520
RIGHT_SHARE, SECONDS = 0.99, 2.0


def run() -> Iterator[str]:
    """Yield lines."""
    right = frames = sure = wrong_sure = of_shots = 0
    slowest, worst = 0.0, 1.0
    for seed in range(CARDS):
        card = made_card(np.random.default_rng(seed), SHOTS)
        began = time.perf_counter()
        match = match_card(card.shots_s, card.frames_s, card.fractions)
        slowest = max(slowest, time.perf_counter() - began)
        found, certain = np.full(len(card.frames_s), -1), np.zeros(len(card.frames_s), bool)
        for pair in match.pairs:
            found[pair.frame], certain[pair.frame] = pair.shot, pair.sure
        is_right = found == card.truth
        worst = min(worst, float(is_right.mean()))
        right, frames = right + int(is_right.sum()), frames + len(is_right)
        sure, of_shots = sure + int(certain.sum()), of_shots + int((card.truth >= 0).sum())
        wrong_sure += int((certain & ~is_right).sum())
    share = right / frames
    yield (
        f"{CARDS} cards of about {frames // CARDS} frames: {share:.2%} right, the worst card {worst:.2%}   bound "
        f"{RIGHT_SHARE:.0%}: {verdict(RIGHT_SHARE, share)}; sure {sure / of_shots:.1%} of the frames that show a shot"
    )
    yield f"wrong and sure: {wrong_sure}   bound 0: {verdict(wrong_sure, 0)}"
    yield f"slowest card: {slowest:.2f} s   bound {SECONDS:.0f} s: {verdict(slowest, SECONDS)}"
