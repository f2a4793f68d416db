"""What the coach says, and how far a search has come."""

from dataclasses import replace

import numpy as np

from ondine.bench.simulated.population import make_rig
from ondine.core.belief.priors import Belief
from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import Goal
from ondine.core.coach.posterior import absorb, start
from ondine.core.coach.progress import progress
from ondine.core.coach.proposal import Aim, Candidate, Proposal
from ondine.core.coach.unknowns import Unknowns
from ondine.core.coach.words import chance_words, other_words, reason, timing_words
from ondine.core.timing.sequence import Pulse, Sequence

PAIR = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(91_000, 20_000)), 343_500)
SHAPES = {"full-umbrella": 0.41, "torn-umbrella": 0.3, "opening-umbrella": 0.2, "contact": 0.05, "ripples": 0.01}


def proposal(chance: float, goal: Goal | None = None) -> Proposal:
    best = Candidate(PAIR, Aim.BEST, chance, SHAPES, 1.0)
    safer, bolder = (replace(best, aim=aim) for aim in (Aim.SAFER, Aim.BOLDER))
    return Proposal(goal or Goal(), goal or Goal(), PAIR, best, safer, bolder)


def test_delays_are_named_as_a_hand_sets_them():
    assert timing_words(PAIR) == "interval 91 ms, flash 343.5 ms"
    assert timing_words(replace(PAIR, drops=PAIR.drops[:1])) == "flash 343.5 ms"
    three = replace(PAIR, drops=(*PAIR.drops, Pulse(180_000, 20_000)))
    assert timing_words(three) == "intervals 91 ms, 89 ms, flash 343.5 ms"


def test_chances_are_said_likeliest_first_and_the_unlikely_not_at_all():
    assert chance_words(proposal(0.4).best) == (
        "full umbrella 41%, torn umbrella 30%, opening umbrella 20%, contact 5%"
    )
    assert chance_words(proposal(0.4).best, 1) == "full umbrella 41%"


def test_the_reason_tells_hitting_from_learning():
    assert "best chance of full umbrella" in reason(proposal(0.41))
    assert "early from late" in reason(proposal(0.1))
    assert "teaches most" in reason(proposal(0.0, Goal(None)))
    assert "Hits more often now (40% full umbrella)" in other_words(proposal(0.4).safer, proposal(0.4))
    assert "Teaches most" in other_words(proposal(0.4).bolder, proposal(0.4))


def test_phases_are_found_with_their_instants():
    rig = make_rig(4)
    belief = start(Unknowns(Belief(), rig.setup))
    assert not any(step.done for step in progress(belief, Goal(), rig.start))
    known, size = rig.events_s(rig.start), rig.start.drops[0].open_us
    pair, rng = (Pulse(0, size), Pulse(size + 60_000, size)), np.random.default_rng(2)
    seen = []
    for number in range(24):
        sequence = Sequence.with_one_flash(pair, int((known["touchdown"] + rng.uniform(-0.02, 0.14)) * 1e6))
        seen.append(Seen(sequence, rig.fire(sequence), shot=number))
    steps = progress(absorb(belief, seen), Goal(), rig.start)
    assert [step.name for step in steps] == ["touchdown", "crown", "jet top", "meeting", "hold"]
    assert steps[0].done and abs(steps[0].time_s - known["touchdown"]) < 3 * steps[0].spread_s
    assert steps[3].done and abs(steps[3].time_s - known["drop meets the jet"]) < 4 * steps[3].spread_s
    held = absorb(belief, [Seen(rig.start, "full-umbrella", shot=n) for n in range(3)])
    assert progress(held, Goal(), rig.start)[-1].done
    assert [step.name for step in progress(belief, Goal("jet-top"), rig.start)] == [
        "touchdown",
        "crown",
        "jet top",
        "hold",
    ]


def test_other_sizes_are_named_and_explained():
    large = replace(PAIR, drops=tuple(replace(drop, open_us=32_000) for drop in PAIR.drops))
    found = proposal(0.1)
    found = replace(found, best=replace(found.best, sequence=large))
    assert timing_words(large, PAIR).startswith("drops 32 ms, interval") and "drops" not in timing_words(large, large)
    uneven = replace(large, drops=(large.drops[0], replace(large.drops[1], open_us=28_000)))
    assert timing_words(uneven, PAIR).startswith("drops 32 ms, 28 ms,")
    assert reason(found) == "Large drops show full umbrella for longer: easier to hit the first time."
