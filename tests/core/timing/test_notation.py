"""One line for a sequence: written in any convention, read back exactly, and exact about what is wrong."""

import re
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Counts
from ondine.core.timing.conventions import CONVENTIONS, Convention, ConventionError, Landmarks, LightFrom, tell
from ondine.core.timing.notation import (
    MOST_CHARACTERS,
    UNITS,
    NotationError,
    is_part,
    read,
    read_convention,
    read_part,
    write,
    write_part,
)
from ondine.core.timing.sequence import CameraTimes, FlashPulse, Pulse, Sequence
from tests.core.timing.sequences import sequences

PAIR = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000)), 356_000)
GOOD = "ms, from the trigger: A 0 open 22, A 95 open 22; flash from the trigger: 1 at 356"


def predicts(drops: tuple[Pulse, ...]) -> Landmarks:
    """Landmarks that follow from the drops alone, as those of a forecast do."""
    return Landmarks(drops[0].start_us + 263_117, drops[-1].end_us + 231_003)


@given(sequences(), st.sampled_from(CONVENTIONS), st.sampled_from(sorted(UNITS)))
def test_every_convention_comes_back_in_whole_microseconds(sequence, convention, unit):
    line = read(write(sequence, convention, unit, predicts), predicts)
    assert (line.sequence, line.convention, line.unit) == (sequence, convention, unit)


@given(sequences(), st.sampled_from(CONVENTIONS), st.sampled_from(CONVENTIONS))
def test_switching_the_convention_changes_nothing_that_fires(sequence, one, other):
    first = read(write(sequence, one, "us", predicts), predicts)
    again = read(write(first.sequence, other, "ms", predicts), predicts)
    assert again.sequence == sequence


@pytest.mark.parametrize(
    ("convention", "waits_us", "delay_us"),
    [
        # Worked by hand: openings at 0 and 95 ms of 22 ms each, the flash at 356.
        (Convention(Counts.ABSOLUTE, LightFrom.TRIGGER), (0, 95_000), 356_000),
        (Convention(Counts.START_TO_START, LightFrom.FIRST_OPENING), (0, 95_000), 356_000),
        (Convention(Counts.CLOSING_TO_OPENING, LightFrom.LAST_OPENING), (0, 73_000), 261_000),
        (Convention(Counts.CLOSING_TO_OPENING, LightFrom.LAST_CLOSING), (0, 73_000), 239_000),
        (Convention(Counts.ABSOLUTE, LightFrom.TOUCHDOWN), (0, 95_000), 92_883),
        (Convention(Counts.ABSOLUTE, LightFrom.MEETING), (0, 95_000), 7_997),
    ],
)
def test_waits_and_delays_are_counted_as_they_are_called(convention, waits_us, delay_us):
    told = tell(PAIR, convention, predicts)
    assert (told.waits_us, told.delays_us) == (waits_us, (delay_us,))


def test_a_line_reads_as_it_is_said():
    assert write(PAIR) == GOOD
    race = Sequence(
        (Pulse(0, 22_000), Pulse(500, 20_125, 1)),
        (FlashPulse(356_000), FlashPulse(361_000, 1)),
        CameraTimes(50_000, 10, 20),
    )
    closing = Convention(Counts.CLOSING_TO_OPENING, LightFrom.LAST_OPENING)
    assert write(race, closing) == (
        "ms, closing to opening: A 0 open 22, B -21.5 open 20.125; flash from the last opening: 1 at 355.5, 2 at 360.5; "
        "shutter 50; mirror 0.01; half press 0.02"
    )
    assert read(write(race, closing)).sequence == race


def test_space_is_free_between_words():
    assert read("  " + GOOD.replace(", ", " ,  ").replace(": ", ":") + " ").sequence == PAIR


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "Column 1: found the end of the line, expected ms or us."),
        (GOOD.removeprefix("ms, "), "Column 1: found “from”, expected ms or us."),
        ("s" + GOOD[2:], "Column 1: found “s,”, expected ms or us."),
        (GOOD.replace("A 95", "A 9５"), "Column 39: found “５”, expected open."),
        (GOOD.replace("A 95", "A ９5"), "Column 38: found “９5”, expected a number with a point."),
        (GOOD.replace("A 95", "E 95"), "Column 36: found “E”, expected A, B, C or D."),
        (GOOD.replace("A 95", "AA 95"), "Column 36: found “AA”, expected A, B, C or D."),
        (GOOD.replace("open 22,", "open 22.5x,"), "Column 36: found “x,”, expected “;”."),
        (GOOD.replace("1 at 356", "5 at 356"), "Column 74: found “5”, expected 1, 2, 3 or 4."),
        (GOOD.replace("356", "356,"), "Column 83: found the end of the line, expected 1, 2, 3 or 4."),
        (GOOD.replace("356", "3 56"), "Column 81: found “56”, expected “;” or the end of the line."),
        (GOOD.replace("356", "356.0001"), "Column 79: 356.0001 is finer than thousandths of a millisecond"),
        ("us" + GOOD[2:].replace("95", "95.5"), "95.5 is finer than whole microseconds"),
        (GOOD.replace("356", "9" * 40), "is no time of a sequence"),
        (GOOD.replace("from the trigger:", "from yesterday:", 1), "Column 5: found “from”, expected from the trigger"),
        (GOOD + "; shutter 5; shutter 6", "Column 95: found “shutter”, expected mirror or half press."),
        (
            GOOD + "; shutter 1; mirror 1; half press 1;0",
            "Column 118: found “0”, expected the end of the line: each time of the camera is there once.",
        ),
        (GOOD.replace("A 0 open 22, ", "A 0 open 22, " * 8), "a sequence has at most 8 drops"),
    ],
)
def test_what_is_wrong_is_told_by_column_found_and_expected(text, says):
    with pytest.raises(NotationError) as caught:
        read(text)
    assert says in str(caught.value)


def test_three_megabytes_get_a_sentence_at_once():
    began = time.process_time()
    with pytest.raises(NotationError, match=f"no sequence needs more than {MOST_CHARACTERS}"):
        read("ms" * 1_500_000)
    assert time.process_time() - began < 0.5


@given(st.text(max_size=200))
def test_no_text_breaks_the_reader(text):
    for given_text in (text, GOOD[:40] + text, GOOD + text):
        try:
            read(given_text)
        except (NotationError, ConventionError) as error:
            assert str(error)


def test_counting_from_what_is_not_predicted_is_refused():
    with pytest.raises(ConventionError, match="No meeting is predicted"):
        write(PAIR, Convention(light_from=LightFrom.MEETING))
    with pytest.raises(ConventionError, match="No touchdown is predicted"):
        read(GOOD.replace("flash from the trigger", "flash from the predicted touchdown"))


def test_a_convention_is_read_from_any_of_its_parts():
    assert read_convention("us") == (Convention(), "us")
    assert read_convention("closing to opening, flash from the last closing") == (
        Convention(Counts.CLOSING_TO_OPENING, LightFrom.LAST_CLOSING),
        "ms",
    )
    with pytest.raises(NotationError, match="Column 5: found “backwards”, expected ms, us, from the trigger"):
        read_convention("us, backwards")


@given(sequences(), st.sampled_from(sorted(UNITS)), st.sampled_from(["all", "drops", "flashes"]))
def test_parts_of_a_sequence_come_back_in_whole_microseconds(sequence, unit, which):
    drops = sequence.drops if which != "flashes" else ()
    part = Sequence(drops, sequence.flashes if which != "drops" else ())
    line = write_part(part, unit)
    assert is_part(line) and read_part(line) == part


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("part, ms: ", "Column 11: found the end of the line, expected A, B, C, D or flash"),
        ("part, ms: A 0 open 22; flash: ", "Column 31: found the end of the line, expected 1"),
        ("part, ms: A 0 open 22 B", "Column 23: found “B”, expected “;” or the end of the line"),
        ("part, s: A 0 open 22", "Column 7: found “s:”, expected ms or us"),
        ("part, ms: flash: 1 at 5; A 0 open 22", "Column 24: found “;”, expected the end of the line"),
        ("part, ms: " + "A 0 open 1, " * 9, "a sequence has at most 8 drops"),
        ("part" * 5_000, "no sequence needs more than"),
    ],
)
def test_what_is_wrong_with_a_part_is_said_where_it_lies(text, says):
    with pytest.raises(NotationError, match=re.escape(says)):
        read_part(text)
