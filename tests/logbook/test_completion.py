from datetime import UTC, datetime

import pytest

from ondine.core.log.quantities import QUANTITIES
from ondine.logbook.completion import LogWords, complete
from ondine.logbook.query import Field, HasShape, Says, Within
from ondine.logbook.query_line import Vocabulary, read_query

WORDS = LogWords(labels=("foyer", "for print 3"), sittings=("Lake light",), setups=("Tidal Mill",))


def offered(line: str, cursor: int | None = None) -> tuple[str, ...]:
    return complete(line, len(line) if cursor is None else cursor, WORDS).texts


def test_the_longest_run_of_words_that_begins_a_name_is_completed():
    found = complete("crown full umb", 14, WORDS)
    assert found.texts == ("full umbrella",) and found.start == 6
    assert offered("umb") == ()
    assert offered("open") == ("opening umbrella", "open time 22")


def test_a_name_that_is_whole_is_offered_no_more():
    assert "crown" not in offered("crown")


def test_labels_and_sittings_are_offered_with_their_field():
    assert 'label "for print 3"' in offered("for p") and "label foyer" in offered("fo")
    assert offered("lake") == ('sitting "Lake light"',)
    assert offered("set-up t") == ('set-up "Tidal Mill"',)


def test_only_what_stands_before_the_cursor_counts():
    assert complete("fu gap 60-80", 2, WORDS).texts == ("full umbrella",)


def test_a_minus_sign_stays_before_what_is_completed():
    found = complete("-cra", 4, WORDS)
    assert found.start == 1 and "crater" in found.texts


@pytest.mark.parametrize("quantity", QUANTITIES)
def test_every_example_of_a_figure_is_a_search_by_it(quantity):
    vocabulary = Vocabulary(datetime(2026, 5, 9, tzinfo=UTC))
    texts = [text for text in offered(quantity.name[:-1]) if text.startswith(quantity.name)]
    (term,) = read_query(texts[0], vocabulary).terms
    assert isinstance(term.condition, Within) and term.condition.quantity == quantity


def test_whatever_is_offered_is_understood_as_what_it_is():
    vocabulary = Vocabulary(datetime(2026, 5, 9, tzinfo=UTC))
    assert read_query(offered("for p")[0], vocabulary).terms[0].condition == Says(Field.LABEL, "for print 3", True)
    assert isinstance(read_query(offered("full u")[0], vocabulary).terms[0].condition, HasShape)
