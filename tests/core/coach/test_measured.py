"""Heights and widths in notes: as people write them, and nothing else taken for one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.coach.measured import LEAST_M, MOST_M, height_in, read_height, width_in


@pytest.mark.parametrize(
    ("note", "metres"),
    [
        ("height 23 mm", 0.023),
        ("a calm one, height: 2,3 cm", 0.023),
        ("Height=1 in, for print 3", 0.0254),
        ("height 18.5mm", 0.0185),
        ("height 12 mm, no: height 14 mm", 0.014),
        ("height ٢٣ mm", 0.023),
    ],
)
def test_a_height_is_read_as_it_is_written(note, metres):
    assert height_in(note) == pytest.approx(metres)


@pytest.mark.parametrize(
    "note",
    ["", "23 mm", "height", "height 23", "height unknown mm", "nozzle up 23 mm", "height 0 mm", "height 4000 mm",
     "height -12 mm", "height nan mm", "heights 23 mm", "height 1/0 mm"],
)  # fmt: skip
def test_what_tells_no_height_is_none(note):
    assert height_in(note) is None


@given(st.text(max_size=80))
def test_whatever_a_note_holds_it_is_a_height_or_none(note):
    found = height_in(note)
    assert found is None or LEAST_M <= found <= MOST_M


@given(st.floats(1, 900), st.text(alphabet="abc ,.!\n", max_size=20))
def test_a_height_is_found_among_other_words(height_mm, words):
    assert height_in(f"{words} height {height_mm:.2f} mm {words}") == pytest.approx(height_mm / 1e3, abs=1e-5)


@pytest.mark.parametrize(
    ("text", "metres"), [("18", 0.018), ("18 mm", 0.018), ("1,8cm", 0.018), (" 1 in ", 0.0254), ("5 m", 5.0)]
)
def test_a_height_that_is_wanted_may_leave_its_unit_out(text, metres):
    assert read_height(text) == pytest.approx(metres)


@pytest.mark.parametrize("text", ["", "tall", "-3", "0 mm", "12 parsec", "500000", "101 m", "1 2 3 mm x"])
def test_what_is_no_height_is_none(text):
    assert read_height(text) is None


@pytest.mark.parametrize(
    ("note", "metres"),
    [
        ("width 40 mm", 0.040),
        ("height 23 mm, Width: 4,2 cm", 0.042),
        ("wide 41 mm; no, width 39mm", 0.039),
        ("width=1 in", 0.0254),
    ],
)
def test_a_width_is_read_as_it_is_written(note, metres):
    assert width_in(note) == pytest.approx(metres)


@pytest.mark.parametrize(
    "note", ["", "40 mm", "width 40", "height 40 mm", "width 0 mm", "width nan mm", "bandwidth 40 mm"]
)
def test_what_tells_no_width_is_none(note):
    assert width_in(note) is None


def test_a_note_may_tell_both():
    note = "height 23 mm, width 40 mm"
    assert (height_in(note), width_in(note)) == (pytest.approx(0.023), pytest.approx(0.040))


@given(st.text(max_size=80))
def test_whatever_a_note_holds_it_is_a_width_or_none(note):
    found = width_in(note)
    assert found is None or LEAST_M <= found <= MOST_M
