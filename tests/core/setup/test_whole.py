import hashlib

from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Setup, Valve
from ondine.core.setup.compare import differences
from ondine.core.setup.fields import leaves, put, read
from ondine.core.setup.wire import setup_from_json
from ondine.demo.scenario import TIDAL_MILL


def test_a_setup_is_addressed_by_its_content():
    assert Setup().revision == Setup().revision
    assert Setup().revision != Setup(valves=(Valve(nozzle_height_m=0.366),)).revision
    # SHA-256 (FIPS 180-4) of its canonical JSON, the first 64 bits: logbooks are addressed by it.
    assert Setup().revision == f"{int(hashlib.sha256(Setup().to_json().encode()).hexdigest(), 16) >> 192:016x}"


def _with(setup: Setup, path: str, share: float) -> Setup:
    from ondine.core.setup.fields import about

    known = about(setup, path)
    value = read(setup, path)
    if known.low is None or known.high is None or value is None or isinstance(value, bool):
        return setup
    made = known.low + share * (known.high - known.low)
    return put(setup, path, round(made) if isinstance(value, int) else made)


PATHS = [path for path, value in leaves(TIDAL_MILL) if isinstance(value, int | float) and not isinstance(value, bool)]


@given(st.lists(st.tuples(st.sampled_from(PATHS), st.floats(0, 1)), max_size=8))
def test_revisions_tell_set_ups_apart_and_survive_their_json(changes):
    setup = TIDAL_MILL
    for path, share in changes:
        setup = _with(setup, path, share)
    again = setup_from_json(setup.to_json())
    assert again == setup and again.revision == setup.revision
    assert (setup.revision == TIDAL_MILL.revision) == (setup == TIDAL_MILL)
    assert (differences(setup, TIDAL_MILL) == []) == (setup == TIDAL_MILL)
