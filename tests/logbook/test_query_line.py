"""Searches as people write them. What the words mean is Ondine's own: no published source."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.forecast.shapes import SHAPES, Shape, ShapeGroup
from ondine.core.log.quantities import QUANTITIES
from ondine.logbook.query import Field, Fired, Flag, HasShape, Is, Query, Says, Term, Within
from ondine.logbook.query_line import MOST_CHARACTERS, QueryError, Vocabulary, read_query

NOW = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
VOCABULARY = Vocabulary(NOW)


def read(line: str) -> Query:
    return read_query(line, VOCABULARY)


def only(line: str) -> Term:
    (term,) = read(line).terms
    return term


def limits(line: str) -> tuple[str, float | None, float | None]:
    condition = only(line).condition
    assert isinstance(condition, Within)
    rounded = [None if end is None else round(end, 3) for end in (condition.low, condition.high)]
    return condition.quantity.key, rounded[0], rounded[1]


def test_one_line_of_words():
    found = read("full umbrella gap 60-80 rating>=4 glycerine")
    assert found.words == "full umbrella · gap 60 to 80 ms · rating at least 4 · “glycerine”"
    shape, gap, rating, words = (term.condition for term in found.terms)
    assert shape == HasShape("full-umbrella", "full umbrella")
    assert isinstance(gap, Within) and isinstance(rating, Within) and gap.quantity.key == "gap_ms"
    assert words == Says(Field.ANY, "glycerine")


@pytest.mark.parametrize("shape", SHAPES)
def test_every_shape_is_known_by_name_and_by_key(shape):
    for name in (shape.name, shape.key, shape.name.upper()):
        assert only(name).condition == HasShape(shape.key, shape.name)
        assert only(f"-{name}") == Term(HasShape(shape.key, shape.name), negated=True)
        assert only(f"not {name}").negated


@pytest.mark.parametrize("quantity", QUANTITIES)
def test_every_figure_takes_a_value_a_range_and_a_comparison(quantity):
    for name in (quantity.name, *quantity.aliases):
        key, low, high = limits(f"{name} 2-3")
        assert key == quantity.key and low <= 2 and high >= 3
        assert limits(f"{name}>=2")[2] is None and limits(f"{name} <= 3")[1] is None


@pytest.mark.parametrize(
    "line",
    ["gap 60-80", "gap 60..80", "gap 60 to 80", "gap 60 – 80", "gap 80-60", "gap 60-80 ms", "gap 60-80ms", "Gap ٦٠-٨٠"],
)
def test_a_range_may_be_written_in_many_ways(line):
    assert limits(line) == ("gap_ms", 59.95, 80.05)


def test_a_comma_is_a_decimal():
    assert limits("gap 60,5-80,25") == ("gap_ms", 60.45, 80.3)


def test_negative_times_and_fractions():
    assert limits("after touchdown -5 to 10") == ("after_touchdown_ms", -5.05, 10.05)
    power = only("power 1/128-1/32").condition
    assert power.low == pytest.approx(1 / 128, abs=6e-4) and power.high == pytest.approx(1 / 32, abs=6e-4)
    # The next steps of a dial, 1/256 and 1/16, lie outside.
    assert 1 / 256 < power.low < 1 / 128 and 1 / 32 < power.high < 1 / 16
    assert limits("f/11") == ("f_number", 10.95, 11.05)


def test_lengths_may_have_their_own_unit_and_no_other():
    assert limits("height 36.5cm") == limits("height 365") == limits("height 365 mm")
    with pytest.raises(QueryError, match="height is in mm"):
        read("height 20 ms")


def test_what_is_shown_as_a_value_counts_as_it():
    condition = only("flash 356").condition
    assert isinstance(condition, Within)
    assert condition.low < 355.96 and condition.high > 356.04
    assert not condition.low <= 355.94 and not condition.high >= 356.06
    over, under = only("flash>356").condition, only("flash<356").condition
    assert over.low > 356.04 and under.high < 355.96


def test_a_figure_s_name_without_a_number_is_a_word_like_any_other():
    assert [term.condition for term in read("the gap too short").terms] == [
        Says(Field.ANY, word) for word in ("the", "gap", "too", "short")
    ]


@pytest.mark.parametrize("line", ["rating>=", "rating >= x", "gap<"])
def test_a_comparison_without_a_number_is_said(line):
    with pytest.raises(QueryError, match="stands no number"):
        read(line)


def test_flags_fields_and_phrases():
    assert [only(flag.value).condition for flag in Flag] == [Is(flag) for flag in Flag]
    assert only('sitting "lake light"').condition == Says(Field.SITTING, "lake light", whole=True)
    assert only("label foyer").condition == Says(Field.LABEL, "foyer")
    assert only("liquid milk").condition == Says(Field.LIQUID, "milk")
    # A name of a field that nothing follows is a word.
    assert only("note").condition == Says(Field.ANY, "note")
    assert only('"for the').condition == Says(Field.ANY, "for the", whole=True)


def test_days_months_and_years():
    def span(line: str) -> tuple[datetime | None, datetime | None]:
        condition = only(line).condition
        assert isinstance(condition, Fired)
        return condition.since, condition.until

    day = datetime(2026, 5, 9, tzinfo=UTC)
    assert span("on 2026-05-09") == span("today") == (day, day + timedelta(days=1))
    assert span("yesterday") == (day - timedelta(days=1), day)
    assert span("since 2026-05") == (datetime(2026, 5, 1, tzinfo=UTC), None)
    assert span("before 2026") == (None, datetime(2026, 1, 1, tzinfo=UTC))
    assert span("on 2025-12") == (datetime(2025, 12, 1, tzinfo=UTC), datetime(2026, 1, 1, tzinfo=UTC))
    assert span("on 2024") == (datetime(2024, 1, 1, tzinfo=UTC), datetime(2025, 1, 1, tzinfo=UTC))
    with pytest.raises(QueryError, match="is no day"):
        read("on 2026-13")


def test_shapes_of_one_s_own_are_known():
    own = Vocabulary(NOW, (*SHAPES, Shape("own-twin-crown", "twin crown", ShapeGroup.OWN)))
    assert read_query("twin crown", own).terms[0].condition == HasShape("own-twin-crown", "twin crown")


def test_too_much_at_once_is_said():
    with pytest.raises(QueryError, match="longer than"):
        read("a" * (MOST_CHARACTERS + 1))
    with pytest.raises(QueryError, match="More than"):
        read("a " * 60)


@given(st.text(max_size=80))
def test_any_text_is_understood_or_refused_with_a_sentence(line):
    try:
        found = read(line)
    except QueryError as error:
        assert str(error).endswith(".")
    else:
        assert all(term.words for term in found.terms)


@given(st.sampled_from([q for q in QUANTITIES if q.key != "power"]), st.integers(-99, 99), st.integers(-99, 99))
def test_what_a_range_says_of_itself_is_read_as_the_same_range(quantity, one, other):
    found = only(f"{quantity.name} {one} to {other}").condition
    again = only(found.shown).condition
    assert (again.low, again.high) == (found.low, found.high)
