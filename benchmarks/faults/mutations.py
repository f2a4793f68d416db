"""Recipes, set-ups and values of the desk with anything in them: taken whole, or refused with a sentence."""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from typing import Any

from benchmarks.faults import Tally
from ondine.core.belief.priors import Belief
from ondine.core.forecast.plan import Plan
from ondine.core.forecast.prediction import Prediction
from ondine.core.light.session import LightSession
from ondine.core.setup import Setup
from ondine.core.table.focus import Focus
from ondine.core.table.ledger import Ledger
from ondine.core.timing.wire import sequence_to_json
from ondine.demo.taught import IN_HAND
from ondine.logbook.recipe import RecipeError, parse_recipe, write_recipe
from ondine.logbook.setup_file import SetupFileError, parse_setup
from ondine.logbook.wire_model import setup_to_wire
from ondine.studio.composer import plan_kept
from ondine.studio.kept import KeptState

ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 10**18, 10**400, 1e308, -1e308, 1e-308, 0.5, "", "x", "1", "=1+1", "\0", "\ud800", [],
    {}, [[]], {"a": 1}, [1] * 200, "x" * 5000,
)  # fmt: skip
TOKENS = ("NaN", "Infinity", "1e400", "-1e999", "{", "}", "[", "]", '"', "null", ",", ":", "\\u0000", "9" * 5000)
FORECAST_EACH = 5


def mutated(data: Any, dice: random.Random) -> Any:
    """Return JSON data with one value replaced, left out, doubled or renamed, at any depth."""
    if isinstance(data, dict) and data and dice.random() < 0.9:
        key = dice.choice(sorted(data))
        made = dict(data)
        match dice.randrange(6):
            case 0:
                del made[key]
            case 1:
                made[key + "_of_a_newer_one"] = dice.choice(ODD)
            case 2:
                made[key] = dice.choice(ODD)
            case _:
                made[key] = mutated(data[key], dice)
        return made
    if isinstance(data, list) and data and dice.random() < 0.8:
        at = dice.randrange(len(data))
        match dice.randrange(4):
            case 0:
                return data[:at] + data[at + 1 :]
            case 1:
                return data + data[at : at + 1] * dice.choice((1, 3, 100))
            case _:
                return [*data[:at], mutated(data[at], dice), *data[at + 1 :]]
    if isinstance(data, int | float) and not isinstance(data, bool) and abs(data) < 1e300 and dice.random() < 0.5:
        return dice.choice((data * 10, data / 1000, -data, data + 1, round(data), float(data)))
    return dice.choice(ODD)


def mutated_text(text: str, dice: random.Random) -> str:
    """Return a text with its JSON mutated, or with something in it that is none."""
    if dice.random() < 0.25:
        at = dice.randrange(len(text) + 1)
        return text[:at] + dice.choice((*TOKENS, "")) + text[at + dice.randrange(4) :]
    try:
        data = json.loads(text)
    except ValueError:
        data = {}
    for _ in range(dice.randint(1, 2)):
        data = mutated(data, dice)
    try:
        return json.dumps(data)
    except ValueError:
        return "{"


def run(count: int, seed: int) -> Tally:
    """Mutate `count` texts."""
    tally, dice = Tally("mutated recipes, set-ups and values of the desk"), random.Random(seed)
    recipe = write_recipe(IN_HAND)
    setup = json.dumps({"format": "ondine-setup", "version": 2, "setup": setup_to_wire(IN_HAND.setup)})
    kinds: list[Callable[[], Plan | None]] = [
        lambda: _recipe(mutated_text(recipe, dice)),
        lambda: _setup(mutated_text(setup, dice)),
        lambda: _desk(dice),
        lambda: _small(dice),
    ]
    for number in range(count):
        tally.tried += 1
        try:
            plan = kinds[number % len(kinds)]()
            tally.note("refused or set aside" if plan is None else "taken")
            if plan is not None and number % FORECAST_EACH == 0:
                _used(plan)
        except Exception as error:  # noqa: BLE001 - that is what is counted
            tally.faults.append(f"{type(error).__name__}: {error}"[:300])
    return tally


def _recipe(text: str) -> Plan | None:
    try:
        return parse_recipe(text, "r.json")
    except RecipeError:
        return None


def _setup(text: str) -> Plan | None:
    try:
        setup, belief = parse_setup(text, "s.json")
        return Plan(IN_HAND.sequence, setup, belief)
    except SetupFileError:
        return None


def _desk(dice: random.Random) -> Plan | None:
    texts = {
        "sequence": sequence_to_json(IN_HAND.sequence),
        "setup": IN_HAND.setup.to_json(),
        "belief": IN_HAND.belief.to_json(),
    }
    key = dice.choice(sorted(texts))
    kept = KeptState(texts | {key: mutated_text(texts[key], dice)})
    plan = plan_kept(kept, Plan(IN_HAND.sequence, Setup(), Belief()))
    return None if kept.set_aside else plan


def _small(dice: random.Random) -> Plan | None:
    kinds: tuple[tuple[str, Callable[[str], Any]], ...] = (
        (Ledger(3, 1e-6, (2.0,)).to_json(), Ledger.from_json),
        (LightSession(clouding_stops=0.5).to_json(), LightSession.from_json),
        (Focus().ticked(0, IN_HAND.setup).to_json(), Focus.from_json),
    )
    text, parse = dice.choice(kinds)
    kept = KeptState({"x": mutated_text(text, dice)})
    made = kept.read("x", parse, None)
    if made is not None:
        json.loads(made.to_json())
    return None


def _used(plan: Plan) -> None:
    """What was taken can be forecast, and written again."""
    assert parse_recipe(write_recipe(plan), "again.json").sequence == plan.sequence
    prediction = Prediction.of(plan.setup, plan.belief, plan.sequence, None)
    assert prediction.first.shapes and prediction.in_words()
