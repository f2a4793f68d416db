"""All that the stages show, computed once for all of them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from ondine.core.belief.priors import Belief
from ondine.core.forecast.lit import UnitLight, unit_lights
from ondine.core.forecast.prediction import Prediction
from ondine.core.light.session import LightSession
from ondine.core.setup import BenchKind, Setup
from ondine.core.table.focus import Focus
from ondine.core.table.ledger import Ledger
from ondine.core.table.results import TableResults, table_results
from ondine.core.timing.sequence import Sequence
from ondine.core.units import Units
from ondine.logbook.records import ShotRecord, SittingFacts
from ondine.studio.events import BenchState
from ondine.ui.table.tools import TableTools


@dataclass(frozen=True)
class TableState:
    """The table at one moment."""

    setup: Setup
    belief: Belief
    sequence: Sequence
    units: Units
    prediction: Prediction
    ledger: Ledger
    focus: Focus
    facts: SittingFacts
    checked: frozenset[str]
    light: LightSession
    shot: ShotRecord | None
    newest: ShotRecord | None
    bench: BenchState
    kind: BenchKind

    @cached_property
    def results(self) -> TableResults:
        """What the first drop will do."""
        return table_results(self.prediction.forecast)

    @cached_property
    def unit_lights(self) -> tuple[UnitLight, ...]:
        """What each unit gives to the picture."""
        return unit_lights(self.setup, tuple(at.lit for at in self.prediction.flashes))

    @property
    def times(self) -> tuple[int, ...]:
        """How often each unit lights in the picture."""
        return tuple(len(one.flashes) for one in self.unit_lights)

    @cached_property
    def right_iso(self) -> float:
        """ISO that is right for the picture, all its flashes together."""
        return self.light.right_iso(self.setup, self.times)


def table_state(tools: TableTools, prediction: Prediction, newest: ShotRecord | None) -> TableState:
    """Return what the stages show now."""
    studio, plan = tools.studio, tools.studio.composer.plan
    return TableState(
        setup=plan.setup,
        belief=plan.belief,
        sequence=plan.sequence,
        units=tools.editor.units,
        prediction=prediction,
        ledger=studio.bench.ledger,
        focus=tools.checks.focus,
        facts=studio.sitting.facts,
        checked=frozenset(studio.sitting.checked),
        light=tools.light.session,
        shot=tools.in_view.shot,
        newest=newest,
        bench=studio.bench.state,
        kind=studio.bench.kind,
    )
