import json

import pytest
from hypothesis import given

from ondine.core.timing.sequence import CameraTimes, FlashPulse, Pulse, Sequence
from ondine.core.timing.wire import sequence_from_json, sequence_to_json
from tests.core.timing.sequences import sequences


@given(sequences())
def test_a_sequence_survives_its_json(sequence):
    assert sequence_from_json(sequence_to_json(sequence)) == sequence


def test_json_names_microseconds():
    two = Sequence((Pulse(0, 22_000), Pulse(95_000, 18_000, 1)), (FlashPulse(356_000, 2),), CameraTimes(mirror_us=5))
    assert json.loads(sequence_to_json(two)) == {
        "drops": [
            {"start_us": 0, "open_us": 22_000, "valve": 0},
            {"start_us": 95_000, "open_us": 18_000, "valve": 1},
        ],
        "flashes": [{"at_us": 356_000, "output": 2}],
        "camera": {"opens_us": None, "mirror_us": 5, "half_press_us": None},
    }


def test_a_sequence_of_one_flash_and_one_valve_is_read_as_it_was_written_until_format_5():
    # Until format 3 a sequence carried its valve's limit along.
    old = '{"drops": [{"start_us": 0, "open_us": 22000}], "flash_us": 356000, "max_open_us": 150000}'
    assert sequence_from_json(old) == Sequence.with_one_flash((Pulse(0, 22_000),), 356_000)


def test_what_cannot_be_fired_can_still_be_read():
    overlapping = Sequence.with_one_flash((Pulse(0, 122_000), Pulse(95_000, 18_000), Pulse(-5, 0)), -7)
    assert sequence_from_json(sequence_to_json(overlapping)) == overlapping


@pytest.mark.parametrize(
    "text",
    [
        "[]",
        "7",
        '{"drops": []}',
        '{"drops": [], "flash_us": 0}',
        '{"drops": [{"start_us": 0.5, "open_us": 1}], "flashes": []}',
    ],
)
def test_what_is_no_sequence_is_said(text):
    with pytest.raises(ValueError, match=r"it is no object|flashes is missing|is empty|start_us cannot be"):
        sequence_from_json(text)
