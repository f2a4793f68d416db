"""Which kind of bench a logbook is of."""

import pytest

from ondine.core.setup import BenchKind
from ondine.logbook.bench_kind import bench_of, kept_bench
from ondine.logbook.store import Logbook


def test_the_kind_of_a_logbook_is_read_beside_an_open_window(tmp_path):
    path = tmp_path / "log.ondine"
    assert bench_of(path) is None
    path.write_text("no logbook")
    assert bench_of(path) is None
    path.unlink()
    book = Logbook.open(path)
    book.state.put("bench", "simulated")
    assert str(bench_of(path)) == "simulated"
    book.state.put("bench", "of clouds")
    assert bench_of(path) is None
    book.close()


@pytest.mark.parametrize(
    ("text", "kind"),
    [("by hand", BenchKind.BY_HAND), ("by cable", BenchKind.CABLE), ("simulated", BenchKind.SIMULATED),
     ("unknown", None), ("SIMULATED", None), ("", None), (None, None)],
)  # fmt: skip
def test_what_is_no_kind_of_a_bench_is_as_if_nobody_had_said_it(text, kind):
    assert kept_bench(text) is kind
