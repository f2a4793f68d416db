"""What practising leaves behind is read back as it was, and nothing odd is taken for it."""

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.bench.simulated.levels import Level
from ondine.studio.events import Showed
from ondine.studio.practice.book import Before, PracticeBook, Round, Run, book_from_json
from tests.conftest import PAIR

RUN = Run(Level.NORMAL, 2001, "full-umbrella", True, "2026-05-09T19:00:00+00:00")
BEFORE = Before("{}", "{}", "{}")


def fired(book: PracticeBook, *shots: int) -> PracticeBook:
    for shot in shots:
        book = book.fired(Showed(shot, PAIR, "crown"))
    return book


def test_a_book_comes_back_as_it_was_written():
    book = fired(PracticeBook().begun(RUN, BEFORE), 7, 8)
    book = replace(book, rounds=(Round("2026-05-09T20:00:00+00:00", 7, 10, 61),))
    assert book_from_json(book.to_json()) == book
    assert book.run.shots == 2 and (book.run.first, book.run.last) == (7, 8)


@pytest.mark.parametrize(
    ("field", "value"),
    [("level", "hopeless"), ("rig", -1), ("goal", "a unicorn"), ("shots", -2), ("par", "many"), ("hints", 3)],
)
def test_a_run_that_cannot_have_been_is_refused(field, value):
    data = json.loads(PracticeBook((RUN,), True).to_json())
    data["runs"][0][field] = value
    with pytest.raises(ValueError):
        book_from_json(json.dumps(data))


@pytest.mark.parametrize("text", ["", "[]", "null", '{"runs": 3}', '{"rounds": [{"at": "", "right": 11, "of": 10}]}'])
def test_what_is_no_book_is_refused(text):
    with pytest.raises(ValueError):
        book_from_json(text)


@given(st.lists(st.integers(1, 60), min_size=1, max_size=12, unique=True), st.integers(1, 80))
def test_a_shot_counts_for_one_rig_alone(shots, asked):
    first, second = sorted(shots)[: len(shots) // 2], sorted(shots)[len(shots) // 2 :]
    book = fired(PracticeBook().begun(RUN, BEFORE), *first)
    book = fired(book.begun(replace(RUN, rig=2002), BEFORE), *second)
    away = replace(book, on_bench=False)
    in_first = bool(first) and first[0] <= asked <= first[-1]
    in_second = second[0] <= asked <= second[-1]
    assert book.counts(asked) == in_second
    assert away.counts(asked) == (not in_first and not in_second)


def test_what_was_in_hand_before_the_first_of_several_rigs_is_what_comes_back():
    book = PracticeBook().begun(RUN, BEFORE).begun(replace(RUN, rig=2002), Before("[]", "[]", "[]"))
    assert book.before == BEFORE


def test_shots_after_the_end_are_of_the_rig_and_do_not_count():
    book = fired(PracticeBook().begun(RUN, BEFORE), 3)
    over = fired(book.with_run(replace(book.run, over=True)), 4)
    assert over.run.shots == 1 and over.counts(4) and len(over.shown) == 2
