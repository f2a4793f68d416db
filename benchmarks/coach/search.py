"""One hidden rig: the coach's search on it, the manual routine's, and what the coach knew on the way."""

import importlib
import importlib.util
from dataclasses import dataclass, field
from pathlib import Path
from types import ModuleType
from typing import Any

import numpy as np

from benchmarks.coach.knowing import Knowing, what_is_known
from benchmarks.coach.manual import manual_search
from ondine.core.coach.goal import Goal
from ondine.core.coach.searching import search
from ondine.core.forecast.shapes import SHAPES
from ondine.core.timing.sequence import Pulse, Sequence

GOAL = "full-umbrella"
MOST_SHOTS, MOST_BY_HAND = 40, 200
CHECKED_AFTER = (5, 10, 20)
USUAL = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(97_000, 22_000)), 320_000)


@dataclass(frozen=True)
class Task:
    """A rig to search on: its module, its seed, how many tags are wrong, and whether drops keep their sizes."""

    module: str
    seed: int
    wrong_tags: float
    keeps_sizes: bool = False


@dataclass
class Found:
    """What came of one rig. `coach`, `manual`, `manual_told` : shots to the first full umbrella, None if there was
    none; `said` : the chances that were stated for each shot, with the shape that it then showed.
    """

    seed: int
    coach: int | None = None
    manual: int | None = None
    manual_told: int | None = None
    said: list[tuple[dict[str, float], str]] = field(default_factory=list)
    known: list[Knowing] = field(default_factory=list)


class Tagger:
    """A photographer who tags some pictures wrongly."""

    def __init__(self, seed: int, wrong: float) -> None:
        self._rng, self._wrong = np.random.default_rng([seed, 97]), wrong

    def tag(self, shape: str) -> str:
        """Return what a picture of a shape is tagged as."""
        if self._rng.random() >= self._wrong:
            return shape
        others = [other.key for other in SHAPES if other.key != shape]
        return str(self._rng.choice(others))


def search_on(task: Task) -> Found:
    """Search with the coach, and by hand, on the same rig made twice."""
    module = load(task.module)
    found = Found(task.seed)
    _coached(found, module.make_rig(task.seed), Tagger(task.seed, task.wrong_tags), Goal(GOAL, None, task.keeps_sizes))
    found.manual, found.manual_told = (_by_hand(module.make_rig(task.seed), task, told) for told in (False, True))
    return found


def _by_hand(rig: Any, task: Task, told: bool) -> int | None:
    return manual_search(rig, _begin(rig), Tagger(task.seed, task.wrong_tags).tag, MOST_BY_HAND, told)


def load(name: str) -> ModuleType:
    """Import a module by its name or by its path. Raises ImportError, OSError or SyntaxError where there is none."""
    if not name.endswith(".py"):
        module = importlib.import_module(name)
    else:
        spec = importlib.util.spec_from_file_location(Path(name).stem, name)
        if spec is None or spec.loader is None:
            raise ImportError(f"{name} is no module")
        module = importlib.util.module_from_spec(spec)
        spec.loader.exec_module(module)
    if not hasattr(module, "make_rig"):
        raise ImportError(f"{name} has no make_rig")
    return module


def _begin(rig: Any) -> Sequence:
    return getattr(rig, "start", USUAL)


def _coached(found: Found, rig: Any, tagger: Tagger, goal: Goal) -> None:
    """Search until the goal, and go on as far as what is known is checked."""
    for tried in search(rig.setup, _begin(rig), goal, rig.fire, tagger.tag):
        found.said.append((tried.proposed.shapes, tried.shape))
        if tried.shape == GOAL and found.coach is None:
            found.coach = tried.shot
        if tried.shot in CHECKED_AFTER and hasattr(rig, "events_s"):
            found.known += what_is_known(tried.known, rig, tried.proposed.sequence, tried.shot)
        if tried.shot == MOST_SHOTS or (found.coach is not None and tried.shot >= CHECKED_AFTER[-1]):
            return
