"""Numbers as they are typed in any country, against what CLDR and Unicode say of their digits and signs."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.numbers import NumberError, counted, number_words, plus_minus_ms, read_number, read_numbers

# Unicode Character Database, property Nd: the zeros of some scripts, named by the standard.
ZEROS = {
    "Latin": "DIGIT ZERO", "Arabic": "ARABIC-INDIC DIGIT ZERO", "Persian": "EXTENDED ARABIC-INDIC DIGIT ZERO",
    "Devanagari": "DEVANAGARI DIGIT ZERO", "Bengali": "BENGALI DIGIT ZERO", "Thai": "THAI DIGIT ZERO",
    "Full width": "FULLWIDTH DIGIT ZERO",
}  # fmt: skip


def in_script(text: str, zero: str) -> str:
    return "".join(chr(ord(unicodedata.lookup(zero)) + int(c)) if c.isdigit() else c for c in text)


@pytest.mark.parametrize(
    ("typed", "means"),
    [
        ("356.5", 356.5), ("356,5", 356.5), ("0,5", 0.5), (",5", 0.5), (".5", 0.5), ("5,", 5.0), ("-3,25", -3.25),
        ("−3.25", -3.25), ("+95", 95.0), ("1,234", 1.234), ("1/200", 1 / 200), ("1 ⁄ 4", 0.25),
        # CLDR: fr and sv part groups with a narrow no-break space, de-CH with an apostrophe, ar with its own sign.
        ("1 234,5", 1234.5), ("1\u202f234,5", 1234.5), ("12\u00a0345", 12345.0), ("1’234.5", 1234.5),
        ("١٬٢٣٤٫٥", 1234.5), ("۳۵۶٫۵", 356.5), ("३५६.५", 356.5),
        # Copied from right-to-left text, with marks of direction.
        ("\u200f356,5\u200e", 356.5), ("\u061c-3", -3.0),
        ("  356.5 ms ", 356.5), ("356,5MS", 356.5), ("356.5ms", 356.5),
    ],
)  # fmt: skip
def test_what_is_meant_is_read(typed, means):
    assert read_number(typed, "ms") == pytest.approx(means, rel=1e-12)


@pytest.mark.parametrize("unit", ["ms", "%", "°C", "µL/ms", "m", "×", "kg/m³", "mN/m", "stops", "in", ""])
def test_every_unit_may_stand_behind_its_number(unit):
    assert read_number(f"12,5 {unit}", unit) == read_number(f"12.5{unit}", unit) == 12.5


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("", "no number"), ("   ", "no number"), ("ms", "no number"), ("abc", "is no number"), ("1.234,5", "more than one"),
        ("1,234,567", "more than one"), ("1..5", "more than one"), ("12 34", "several numbers"), ("1 2 3", "several"),
        ("356 s", "this is in ms"), ("356 cm", "“cm” behind"), ("1e3", "is no number"), ("nan", "is no number"),
        ("inf", "is no number"), ("0x10", "is no number"), ("--5", "is no number"), ("5-", "behind"), ("-", "no number"),
        ("1/0", "divides by nothing"), ("½", "is no number"), ("三", "is no number"), ("²", "is no number"),
        ("9" * 400, "larger than any"), (".", "is no number"), ("1 234 5", "several"),
    ],
)  # fmt: skip
def test_what_cannot_be_meant_is_refused_in_a_sentence(typed, says):
    with pytest.raises(NumberError, match=says) as refused:
        read_number(typed, "ms")
    assert str(refused.value).endswith(".")


@given(st.floats(-1e6, 1e6), st.integers(0, 3), st.sampled_from(sorted(ZEROS)), st.sampled_from(".,٫"))
def test_what_is_shown_is_read_back_in_every_script(value, decimals, script, sign):
    shown = number_words(value, decimals)
    assert float(shown) == round(value, decimals) and shown.isascii()
    assert read_number(in_script(shown, ZEROS[script]).replace(".", sign)) == float(shown)


@given(st.text(max_size=12))
def test_anything_is_a_number_or_a_sentence(text):
    try:
        assert isinstance(read_number(text, "ms"), float)
    except NumberError as error:
        assert str(error).strip()


def test_a_row_of_numbers_takes_either_sign():
    assert read_numbers("18,2 17,9; 18.4") == read_numbers("18.2, 17.9, 18.4") == [18.2, 17.9, 18.4]
    assert read_numbers("18,2 mm 17,9 mm", "mm") == [18.2, 17.9] and read_numbers(" ") == []
    with pytest.raises(NumberError):
        read_numbers("18.2 x")


@pytest.mark.parametrize(
    ("time_s", "sd_s", "words"),
    [
        (0.3514, 0.0124, "351 ± 12 ms"),
        (0.3514, 0.0004, "351 ± 1 ms"),
        (0.0, 0.0, "0 ± 1 ms"),
        (-0.004, 0.002, "-4 ± 2 ms"),
    ],
)
def test_no_time_is_shown_as_known_better_than_it_is_shown(time_s, sd_s, words):
    assert plus_minus_ms(time_s, sd_s) == words


def test_one_of_a_thing_is_no_many():
    assert [counted(count, "row") for count in (0, 1, 2)] == ["0 rows", "1 row", "2 rows"]
