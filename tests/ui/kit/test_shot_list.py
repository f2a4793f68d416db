from dataclasses import replace
from datetime import UTC, datetime

import pytest

from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import START
from ondine.logbook.records import ShotRecord, ShotState
from ondine.ui.kit.shot_list import ShotModel, outcome_words, timing_words

AT = datetime(2026, 5, 9, tzinfo=UTC)


def shot(number: int = 1, **more: object) -> ShotRecord:
    plain = ShotRecord(number, "s", "x", "b", AT, ShotState.FIRED, START, "", None, None, 0, "", (), None)
    return replace(plain, **more)


@pytest.mark.parametrize(
    ("record", "words"),
    [
        (shot(), "fired, outcome unknown"),
        (shot(state=ShotState.UNKNOWN), "fired, outcome unknown"),
        (shot(state=ShotState.PLANNED), "firing"),
        (shot(state=ShotState.FAILED), "did not fire"),
        (shot(shapes=("crown", "off-axis")), "crown, off axis"),
        (shot(shapes=("my-own",)), "my-own"),
    ],
)
def test_outcomes_in_words(record, words):
    assert outcome_words(record) == words


def test_timings_in_words():
    assert timing_words(shot()) == "95 · flash 356 ms"
    assert (
        timing_words(shot(sequence=Sequence.with_one_flash((Pulse(0, 20_000),), 300_500)))
        == "one drop · flash 300.5 ms"
    )


def test_a_list_of_shots_keeps_its_order(qtmodeltester):
    model = ShotModel()
    model.set_shots([shot(2), shot(1)])
    model.add(shot(3))
    model.change(shot(1, rating=5))
    assert [s.id for s in model.shots] == [3, 2, 1] and model.shots[2].rating == 5
    assert model.row_of(9) is None
    qtmodeltester.check(model)
