import itertools
from datetime import UTC, datetime, timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from tests.calibrated import IN_HAND

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)

change = st.one_of(
    st.tuples(st.just("tag"), st.sampled_from(["crown", "own-twin"]), st.booleans()),
    st.tuples(st.just("label"), st.sampled_from(["print 3", "foyer"]), st.booleans()),
    st.tuples(st.just("rate_all"), st.integers(0, 5)),
    st.tuples(st.just("keep"), st.booleans()),
    st.tuples(st.just("bin"), st.sampled_from([None, NOON])),
)
numbers = st.sets(st.integers(1, 4), min_size=1)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(change, numbers), min_size=1, max_size=6))
def test_whatever_was_said_is_put_back_and_said_again(tmp_path_factory, said):
    book = Logbook.open(tmp_path_factory.mktemp("said") / "log.ondine")
    try:
        book.shots.add_history([PastShot("One", NOON + timedelta(minutes=n), IN_HAND, ("crown",)) for n in range(4)])
        states = [book.said.of(range(1, 5))]
        for (name, *arguments), ids in said:
            if name in ("tag", "label"):
                getattr(book.shots, name)(ids, *arguments)
            else:
                getattr(book.shots, name)(ids, arguments[0])
            states.append(book.said.of(range(1, 5)))
        for after, before in zip(states[::-1], states[-2::-1], strict=False):
            book.said.put_back(after, before)
            assert book.said.of(range(1, 5)) == before
        for before, after in itertools.pairwise(states):
            book.said.put_back(before, after)
        assert book.said.of(range(1, 5)) == states[-1]
    finally:
        book.close()


def test_only_what_was_changed_is_put_back(logbook):
    logbook.shots.add_history([PastShot("One", NOON, IN_HAND, ("crown",), note="old")])
    before = logbook.said.of([1])
    logbook.shots.rate(1, 4)
    after = logbook.said.of([1])
    logbook.shots.toggle_tag(1, "ripples")
    logbook.said.put_back(after, before)
    # The tag came later, and by another hand: it stays.
    shot = logbook.shots.get(1)
    assert shot.rating == 0 and shot.shapes == ("crown", "ripples") and shot.note == "old"
    logbook.said.put_back({}, {})
    assert logbook.said.of([99]) == {}
