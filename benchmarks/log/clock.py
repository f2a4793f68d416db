"""Cards with a wrong clock, against what they were made from."""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np

from benchmarks.log.cards import Card, made_card, strayed_card
from benchmarks.timing import verdict
from ondine.core.log.card_clock import match_card

CARDS, SHOTS = 60, 520
RIGHT_SHARE, SECONDS = 0.99, 2.0
STRAYED_CARDS, WRONG_IN_1000, SURE_SHARE = 100, 1.0, 0.95


@dataclass
class Count:
    """Frames of cards, and how they were matched; `of_shots` : those that show a shot; `worst` : of one card."""

    frames: int = 0
    of_shots: int = 0
    right: int = 0
    sure: int = 0
    right_and_sure: int = 0
    clocks_too_many: int = 0
    slowest_s: float = 0.0
    worst: float = 1.0

    @property
    def wrong_and_sure(self) -> int:
        """Pairs that are called sure and are wrong."""
        return self.sure - self.right_and_sure

    def add(self, card: Card) -> None:
        """Match a card and count."""
        began = time.perf_counter()
        match = match_card(card.shots_s, card.frames_s, card.fractions)
        self.slowest_s = max(self.slowest_s, time.perf_counter() - began)
        found, certain = np.full(len(card.frames_s), -1), np.zeros(len(card.frames_s), bool)
        for pair in match.pairs:
            found[pair.frame], certain[pair.frame] = pair.shot, pair.sure
        is_right = found == card.truth
        self.frames += len(is_right)
        self.of_shots += int((card.truth >= 0).sum())
        self.right += int(is_right.sum())
        self.sure += int(certain.sum())
        self.right_and_sure += int((certain & is_right).sum())
        self.clocks_too_many += max(len(match.clocks) - 1, 0)
        self.worst = min(self.worst, float(is_right.mean()))


def run(small: bool = False) -> Iterator[str]:
    """Yield lines."""
    yield from _trials(1 if small else CARDS)
    yield from _strays(1 if small else STRAYED_CARDS)


def _trials(cards: int) -> Iterator[str]:
    count = Count()
    for seed in range(cards):
        count.add(made_card(np.random.default_rng(seed), SHOTS))
    share = count.right / count.frames
    yield (
        f"{cards} cards of about {count.frames // cards} frames: {share:.2%} right, the worst card {count.worst:.2%}"
        f"   bound {RIGHT_SHARE:.0%}: {verdict(RIGHT_SHARE, share)}; sure {count.sure / count.of_shots:.1%} of the "
        "frames that show a shot"
    )
    yield f"wrong and sure: {count.wrong_and_sure}   bound 0: {verdict(count.wrong_and_sure, 0)}"
    yield f"slowest card: {count.slowest_s:.2f} s   bound {SECONDS:.0f} s: {verdict(count.slowest_s, SECONDS)}"


def _strays(cards: int) -> Iterator[str]:
    count = strayed(range(cards))
    wrong, sure = 1000 * count.wrong_and_sure / count.frames, count.right_and_sure / count.of_shots
    yield (
        f"{cards} cards with strays: {wrong:.2f} wrong and sure in 1000 frames   bound {WRONG_IN_1000:g}: "
        f"{verdict(wrong, WRONG_IN_1000)}; {sure:.1%} right and sure   bound {SURE_SHARE:.0%}: "
        f"{verdict(SURE_SHARE, sure)}; {count.clocks_too_many} clocks too many   bound 0: "
        f"{verdict(count.clocks_too_many, 0)}"
    )


def strayed(seeds: Iterable[int]) -> Count:
    """Match a card with strays for each seed."""
    count = Count()
    for seed in seeds:
        count.add(strayed_card(np.random.default_rng(70_000 + seed)))
    return count
