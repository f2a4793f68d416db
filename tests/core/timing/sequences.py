"""Any sequence whose times may be fired."""

from hypothesis import strategies as st

from ondine.core.timing.limits import MAX_DROPS, MAX_FLASHES
from ondine.core.timing.sequence import MAX_TIME_US, MIN_GAP_US, CameraTimes, FlashPulse, Pulse, Sequence


@st.composite
def sequences(draw: st.DrawFn, valves: int = 4, drops: int = MAX_DROPS, flashes: int = MAX_FLASHES) -> Sequence:
    """Drops of each valve clear of each other, those of different valves anyhow; in the order of their openings."""
    free = [draw(st.integers(0, 50_000)) for _ in range(valves)]
    made = []
    for _ in range(draw(st.integers(1, drops))):
        valve = draw(st.integers(0, valves - 1))
        length = draw(st.integers(1_000, 200_000))
        made.append(Pulse(free[valve], length, valve))
        free[valve] += length + draw(st.integers(MIN_GAP_US, 200_000))
    lights = draw(
        st.lists(
            st.builds(FlashPulse, st.integers(0, MAX_TIME_US), st.integers(0, flashes - 1)),
            min_size=1,
            max_size=flashes,
        )
    )
    asked = st.none() | st.integers(0, MAX_TIME_US)
    camera = CameraTimes(draw(asked), draw(asked), draw(asked))
    return Sequence(tuple(made), tuple(lights), camera).ordered()
