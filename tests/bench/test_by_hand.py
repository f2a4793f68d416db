"""A table that nothing but hands move."""

from dataclasses import replace

from ondine.bench.by_hand import by_hand_bench
from ondine.bench.protocol import Pour
from ondine.core.setup import BenchKind, Box
from ondine.core.timing.latency import commands_for
from ondine.demo.scenario import START, TIDAL_MILL


def test_it_takes_the_hands_word_and_measures_nothing(clock, tmp_path):
    bench = by_hand_bench(clock)
    assert bench.kind is BenchKind.BY_HAND and not bench.kind.is_driven and bench.kind.is_real
    commands = commands_for(TIDAL_MILL, START)
    bare = bench.controller.fire(commands, TIDAL_MILL)
    assert (bare.note, bare.flashes_us) == ("fired by hand", None)
    with_box = replace(TIDAL_MILL, box=Box(in_use=True, name="Grey box"))
    assert (
        bench.controller.fire(replace(commands, dark=True), with_box).note == "dialled by hand on Grey box, flash off"
    )
    heard: list[int] = []
    poured = bench.controller.pour(Pour(15_000, 40, 75_000), TIDAL_MILL, lambda done: bool(heard.append(done)) or True)
    assert (poured.pulses, poured.grams, heard) == (40, None, [40])
    bench.camera.deliver_to(tmp_path, lambda error: None)
    assert list(tmp_path.iterdir()) == []
