from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from ondine.core.log.side_by_side import Beside, differing
from ondine.core.setup import Setup
from ondine.core.setup.fields import put
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence

DROPS = (Pulse(0, 20_000), Pulse(90_000, 20_000))
PLAIN = Sequence(DROPS, (FlashPulse(350_000),))


def beside(sequence: Sequence = PLAIN, setup: Setup | None = None, **figures: float) -> Beside:
    return Beside(sequence, figures, Setup() if setup is None else setup)


def told(*shots: Beside) -> dict[str, tuple[str, ...]]:
    return {row.name: row.values for row in differing(shots)}


def test_only_what_differs_is_told_and_in_the_order_of_the_work():
    rows = told(
        beside(interval_ms=90.0, flash_ms=350.0, height_mm=365.0),
        beside(interval_ms=91.5, flash_ms=350.0, height_mm=365.0),
        beside(interval_ms=91.5, flash_ms=350.0, height_mm=400.0),
    )
    assert rows == {"interval": ("90 ms", "91.5 ms", "91.5 ms"), "height": ("365 mm", "365 mm", "400 mm")}


def test_what_reads_the_same_is_the_same():
    assert told(beside(flash_ms=350.0), beside(flash_ms=350.04)) == {}


def test_what_a_shot_lacks_is_said():
    assert told(beside(interval_ms=90.0), beside()) == {"interval": ("90 ms", "none")}


def test_the_third_drop_is_told_though_no_figure_has_it():
    third = replace(PLAIN, drops=(*DROPS, Pulse(180_000, 15_500)))
    assert told(beside(), beside(third)) == {"drop 3": ("none", "at 180, open 15.5 ms")}


def test_fields_of_the_set_up_are_told_by_their_names_once():
    other = put(put(Setup(), "bowl.depth_m", 0.030), "camera.f_number", 22.0)
    rows = told(beside(f_number=16.0), beside(setup=other, f_number=22.0))
    assert rows == {"aperture": ("f/16", "f/22"), "Depth of the bowl": ("45 mm", "30 mm")}


def test_a_set_up_that_cannot_be_read_hides_nothing_else():
    rows = differing([Beside(PLAIN, {"flash_ms": 350.0}, None), beside(flash_ms=351.0)])
    assert rows[0].values == ("350 ms", "351 ms") and all(len(row.values) == 2 for row in rows)


@given(st.lists(st.floats(1, 999, allow_nan=False), min_size=2, max_size=6))
def test_there_is_a_value_for_every_shot(flashes: list[float]):
    for row in differing([beside(flash_ms=flash) for flash in flashes]):
        assert len(row.values) == len(flashes) and len(set(row.values)) > 1


def test_a_part_that_only_some_tables_have_is_told_by_its_name_alone():
    more = replace(Setup(), valves=(*Setup().valves, replace(Setup().valves[0], name="Valve B", nozzle_height_m=0.3)))
    assert told(beside(), beside(setup=more)) == {"Valve": ("none", "Valve B")}
    both = replace(more, valves=(more.valves[0], replace(more.valves[1], nozzle_height_m=0.31)))
    assert told(beside(setup=more), beside(setup=both)) == {"Nozzle over the water": ("300 mm", "310 mm")}
