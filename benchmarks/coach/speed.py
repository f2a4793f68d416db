"""How long a proposal takes with 500 shots of evidence, and how long it takes to absorb them."""

import time
from collections.abc import Iterator
from typing import Any

import numpy as np

from benchmarks.timing import seconds, verdict
from ondine.bench.simulated.population import make_rig
from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import sample_rigs
from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import Goal
from ondine.core.coach.learning import TRUST
from ondine.core.coach.posterior import absorb, start
from ondine.core.coach.proposal import propose
from ondine.core.coach.unknowns import Unknowns
from ondine.core.forecast.whole import forecast
from ondine.core.timing.sequence import Pulse, Sequence

PROPOSAL_S, ABSORBED_S = 0.150, 2.0


def as_json(shots: int) -> dict[str, Any]:
    """After so many shots: seconds, and the same in forecasts of two drops on 4096 rigs, which a slow machine does
    slowly too.
    """
    rig = make_rig(2)
    unknowns = Unknowns(Belief(), rig.setup)
    seen = _season(rig, shots)
    begin = time.perf_counter()
    belief = absorb(start(unknowns, trust=TRUST), seen)
    absorbed = time.perf_counter() - begin
    proposal = float(np.median(seconds(lambda: propose(belief, Goal(), rig.start), 7)))
    rigs = sample_rigs(Belief(), 4096)
    unit = float(np.median(seconds(lambda: forecast(rig.setup, Belief(), rig.start, rigs), 9)))
    return {
        "speed": {
            "shots": shots,
            "absorbed_s": absorbed,
            "proposal_s": proposal,
            "absorbed_in_forecasts": absorbed / unit,
            "proposal_in_forecasts": proposal / unit,
        }
    }


def lines(shots: int) -> Iterator[str]:
    """The same, to read."""
    took = as_json(shots)["speed"]
    yield (
        f"{shots} shots absorbed in {took['absorbed_s']:.2f} s = {took['absorbed_in_forecasts']:.0f} forecasts on 4096 "
        f"rigs   bound {ABSORBED_S} s: {verdict(took['absorbed_s'], ABSORBED_S)}"
    )
    yield (
        f"a proposal after them in {took['proposal_s'] * 1e3:.0f} ms = {took['proposal_in_forecasts']:.1f} forecasts   "
        f"bound {PROPOSAL_S * 1e3:.0f} ms: {verdict(took['proposal_s'], PROPOSAL_S)}"
    )


def _season(rig: Any, shots: int) -> list[Seen]:
    """Fire shots with timings all over the place, no two alike."""
    rng, first, made = np.random.default_rng(5), rig.start.drops[0], []
    known = rig.events_s(rig.start)
    for shot in range(shots):
        interval = int(rng.integers(first.open_us + 40_000, 140_000))
        at = int((known["touchdown"] + rng.uniform(-0.02, 0.16)) * 1e6)
        drops = (first, Pulse(interval, first.open_us))
        sequence = Sequence.with_one_flash(drops, max(at, 0))
        made.append(Seen(sequence, rig.fire(sequence), shot=shot))
    return made
