import json

import pytest
from hypothesis import given

from ondine.core.timing.sequence import Pulse, Sequence, SequenceError
from ondine.core.timing.wire import sequence_from_json, sequence_to_json
from tests.core.timing.sequences import sequences


@given(sequences())
def test_a_sequence_survives_its_json(sequence):
    assert sequence_from_json(sequence_to_json(sequence)) == sequence


def test_json_names_microseconds_and_a_broken_rule_is_refused():
    text = sequence_to_json(Sequence((Pulse(0, 22_000), Pulse(95_000, 18_000)), 356_000))
    assert json.loads(text) == {
        "drops": [{"start_us": 0, "open_us": 22_000}, {"start_us": 95_000, "open_us": 18_000}],
        "flash_us": 356_000,
    }
    # Until format 3 a sequence carried its valve's limit along.
    old = text.removesuffix("}") + ', "max_open_us": 150000}'
    assert sequence_from_json(old) == sequence_from_json(text)
    with pytest.raises(SequenceError, match="opens before"):
        sequence_from_json(text.replace("22000", "122000"))
