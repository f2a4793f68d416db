"""A short form of the faults that `./dev bench faults` makes on purpose by the thousand."""

import pytest
from benchmarks.faults import kinds

KINDS = kinds()
NOTED = {
    "kills": "tagged acknowledged", "kills of copies": "copied acknowledged", "corruption": "sentences",
    "mutations": "refused or set aside", "full disks": "told", "copies": "copies of the studio stand and open",
    "links": "left changes beside a name", "leftovers": "removed", "folders": "told", "cards": "pictures at their shots",
}  # fmt: skip
"""What must have come up for a kind to have tried what it is there for."""


@pytest.mark.parametrize("name", KINDS)
def test_faults_made_on_purpose_do_no_harm(name, qtbot):
    tally = KINDS[name].make(KINDS[name].short)
    assert tally.tried >= KINDS[name].short and tally.faults == [], str(tally)
    assert name not in NOTED or tally.notes.get(NOTED[name]), str(tally)
