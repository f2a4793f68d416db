"""Nothing is collected while the program loads; what has ended is let go all the same."""

import gc
import weakref

import pytest

from ondine.ui.shell.loading import collect_ended, uncollected


class Ring:
    """Garbage that only the collector finds."""

    def __init__(self):
        self.own = self


@pytest.fixture(autouse=True)
def unfrozen():
    yield
    gc.unfreeze()


@pytest.mark.parametrize("on", [True, False])
def test_the_collector_rests_while_things_load_and_is_as_before_after_it(on):
    was = gc.isenabled()
    (gc.enable if on else gc.disable)()
    try:
        with pytest.raises(ValueError), uncollected():
            assert not gc.isenabled()
            raise ValueError
        assert gc.isenabled() is on
    finally:
        (gc.enable if was else gc.disable)()


def test_what_was_kept_for_good_is_let_go_once_it_has_ended():
    with uncollected():
        ring = Ring()
    gone = weakref.ref(ring)
    del ring
    gc.collect()
    assert gone() is not None
    collect_ended()
    assert gone() is None
