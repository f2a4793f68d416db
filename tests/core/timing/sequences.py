"""Any sequence that may be fired."""

from hypothesis import strategies as st

from ondine.core.timing.sequence import MAX_TIME_US, MIN_GAP_US, Pulse, Sequence


@st.composite
def sequences(draw: st.DrawFn) -> Sequence:
    drops, at = [], draw(st.integers(0, 50_000))
    for _ in range(draw(st.integers(1, 4))):
        length = draw(st.integers(1_000, 200_000))
        drops.append(Pulse(at, length))
        at += length + draw(st.integers(MIN_GAP_US, 200_000))
    return Sequence(tuple(drops), draw(st.integers(0, MAX_TIME_US)))
