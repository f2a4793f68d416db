"""The coach's own words: what to do next, why, and how likely."""

from __future__ import annotations

from ondine.core.coach.goal import ON_SHEET, Goal
from ondine.core.coach.proposal import Aim, Candidate, Proposal
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.timing.sequence import Sequence, ms

LIKELY = 0.3
"""From this chance on a shot is for hitting, not for learning."""

FEWEST_SHARE = 0.03


def timing_words(sequence: Sequence, begin: Sequence | None = None) -> str:
    """Name what a hand would set of a sequence: its delays, and the sizes of its drops where `begin` has others."""
    gaps = [ms(interval) for interval in sequence.intervals_us]
    words = [f"interval {gap}" for gap in gaps] if len(gaps) < 2 else [f"intervals {', '.join(gaps)}"]
    if begin is not None and is_resized(sequence, begin):
        opens = [ms(drop.open_us) for drop in sequence.drops]
        words.insert(0, f"drops {opens[0] if len(set(opens)) == 1 else ', '.join(opens)}")
    return ", ".join([*words, f"flash {ms(sequence.first_flash_us)}"])


def chance_words(candidate: Candidate, most: int = 4) -> str:
    """Name what a shot may show, likeliest first."""
    named = [(BY_KEY[key].name, share) for key, share in candidate.shapes.items() if share >= FEWEST_SHARE]
    return ", ".join(f"{name} {share:.0%}" for name, share in named[:most])


def reason(proposal: Proposal) -> str:
    """Say in a sentence why the best shot is proposed."""
    best, goal = proposal.best, proposal.goal
    if goal != proposal.wanted:
        return _cannot(proposal)
    likeliest = [BY_KEY[key].name for key in list(best.shapes)[:2]]
    if goal.shape is None:
        return f"It teaches most: {_either(likeliest)} would tell two kinds of rig apart."
    name = BY_KEY[goal.shape].name
    if is_resized(best.sequence, proposal.begin):
        return f"Large drops show {name} for longer: easier to hit the first time."
    if best.chance >= LIKELY:
        return f"The best chance of {name} that is known by now: {best.chance:.0%}."
    return f"It tells early from late: {_either(likeliest)} would say on which side {name} lies."


def _cannot(proposal: Proposal) -> str:
    """Short enough for one line of the panel, the number at its end included."""
    wanted, goal = proposal.wanted, proposal.goal
    nearest = goal_words(goal) if goal.shape != wanted.shape or goal.height_m is None else _height_words(goal.height_m)
    says = f"This table cannot: {goal_words(wanted)}. Nearest that it can: {nearest}."
    if wanted.shape in ON_SHEET and len({drop.valve for drop in proposal.begin.drops}) == 1:
        # The third drop comes while the sheet stands: sooner than one valve opens again.
        return f"{says} Two valves may show it."
    return says


def goal_words(goal: Goal) -> str:
    """Name a goal, with the height that is wanted where one is."""
    if goal.shape is None:
        return "map everything"
    name = BY_KEY[goal.shape].name
    return name if goal.height_m is None or not goal.is_collision else f"{name} {_height_words(goal.height_m)}"


def _height_words(height_m: float) -> str:
    return f"at {height_m:.0f} m" if height_m >= 2 else f"at {height_m * 1e3:.0f} mm"


def other_words(candidate: Candidate, proposal: Proposal) -> str:
    """Say what another choice is for."""
    goal = proposal.goal.shape
    if candidate.aim is Aim.SAFER and goal is not None:
        return f"Hits more often now ({candidate.chance:.0%} {BY_KEY[goal].name}), teaches less."
    return "Teaches most, hits less often now."


def is_resized(sequence: Sequence, begin: Sequence) -> bool:
    """Whether the drops of a sequence have other sizes than those in hand."""
    return any(one.open_us != other.open_us for one, other in zip(sequence.drops, begin.drops, strict=False))


def _either(names: list[str]) -> str:
    return " or ".join(names)
