"""What opens the valve is remembered with each shot, and what was simulated never passes for a table's."""

from dataclasses import replace
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest

from ondine.bench.by_hand import by_hand_bench
from ondine.bench.protocol import Bench
from ondine.bench.simulated.jpeg import write_jpeg
from ondine.core.setup import BenchKind, Box, Camera, Setup
from ondine.core.timing.dials import DialError
from ondine.logbook.picture_error import PictureError
from ondine.studio.events import Notice, PictureArrived, PourEnded, Purpose, Trouble
from ondine.studio.intake import take_file
from ondine.studio.pouring import pour_of
from tests.conftest import PAIR, TestCamera
from tests.frames import real_jpeg


def reopened(table, bench: Bench):
    table.studio.close()
    table.bench = bench
    table.studio = table.open()
    return table


@pytest.fixture
def by_hand(table):
    return reopened(table, by_hand_bench(table.controller.clock))


@pytest.fixture
def practice(table):
    made = reopened(table, Bench(BenchKind.SIMULATED, table.controller, TestCamera()))
    made.studio.log.keep("bench", "simulated")
    return made


def test_a_hand_fires_what_is_logged_and_nothing_is_driven(by_hand):
    by_hand.fire()
    by_hand.settle()
    shot = by_hand.newest()
    assert (shot.bench, shot.report, shot.flash_reports_us) == (BenchKind.BY_HAND, "fired by hand", None)
    assert by_hand.controller.fired == [] and not [e for e in by_hand.events if isinstance(e, Notice | Trouble)]


def test_a_box_dialled_by_hand_logs_what_it_ran_and_drives_nothing(by_hand):
    by_hand.studio.composer.use_setup(Setup(box=Box(in_use=True, step_us=5_000, name="Grey box")))
    by_hand.studio.composer.use_sequence(PAIR.with_flash(0, 356_000))
    assert by_hand.fire()
    by_hand.settle()
    shot = by_hand.newest()
    assert by_hand.controller.fired == []
    assert shot.sequence.first_flash_us == 355_000 and "Grey box" in shot.report
    # Nobody measured when its flash fired.
    assert shot.flash_reports_us is None
    by_hand.studio.composer.use_setup(Setup(box=Box(in_use=True, most_us=100_000)))
    with pytest.raises(DialError, match="counts from"):
        by_hand.fire()
    assert by_hand.studio.bench.state.value == "ready"


def test_by_hand_nobody_waits_for_a_flash_that_the_hand_looks_after(by_hand):
    for _ in range(3):
        by_hand.fire()
        by_hand.settle()
    assert by_hand.ticks.slept_s == 0


def test_what_a_hand_has_poured_counts_in_the_ledger(by_hand):
    plan = by_hand.studio.composer.plan
    pour = pour_of(plan.setup, 0, 15_000, 50)
    before = by_hand.studio.bench.ledger.open_s(0)
    by_hand.studio.bench.pour(pour, Purpose.WEIGHING, plan.setup)
    by_hand.settle()
    (ended,) = by_hand.heard(PourEnded)
    assert ended.dispensed.pulses == 50 and ended.dispensed.grams is None
    assert by_hand.studio.bench.ledger.open_s(0) > before


def test_with_a_box_the_simulated_bench_fires_what_its_dials_can_say(practice):
    setup = replace(practice.studio.composer.setup, box=Box(in_use=True, step_us=5_000))
    practice.studio.composer.use_setup(setup)
    practice.fire()
    practice.settle()
    assert practice.controller.fired[0].first_flash_us == 355_000 and practice.newest().bench is BenchKind.SIMULATED


@pytest.mark.parametrize("simulated", [True, False])
def test_a_picture_of_the_other_world_is_not_taken(by_hand, simulated, tmp_path):
    table = by_hand
    if simulated:
        table = reopened(table, Bench(BenchKind.SIMULATED, table.controller, TestCamera()))
    folder = tmp_path / "incoming"
    folder.mkdir()
    table.watch(folder)
    table.fire()
    table.settle()
    shade = np.full((40, 60, 3), 90, np.uint8)
    (real_jpeg if simulated else write_jpeg)(folder / "wrong.jpg", shade, Camera(), table.controller.clock())
    (trouble,) = table.heard(Trouble)
    assert "wrong.jpg" in trouble.message and "simulated camera" in trouble.message
    assert table.newest().picture is None and (folder / "wrong.jpg").exists()
    # The shot still waits for its own.
    (write_jpeg if simulated else real_jpeg)(folder / "right.jpg", shade, Camera(), table.controller.clock())
    (arrived,) = table.heard(PictureArrived)
    assert arrived.shot.picture.name == "right.jpg"


def test_a_simulated_picture_of_yesterday_in_the_folder_is_left_alone(by_hand, tmp_path):
    by_hand.fire()
    by_hand.settle()
    folder = tmp_path / "incoming"
    folder.mkdir()
    at = by_hand.newest().at + timedelta(seconds=1)
    write_jpeg(folder / "old.jpg", np.full((40, 60, 3), 90, np.uint8), Camera(), at)
    by_hand.watch(folder)
    by_hand.settle()
    assert by_hand.newest().picture is None


def test_an_import_of_files_minds_the_kind_of_the_logbook(practice, tmp_path):
    practice.settle()
    book, clock = practice.studio.writer.logbook, practice.controller.clock
    shade = np.full((40, 60, 3), 90, np.uint8)
    made: Path = tmp_path / "made.jpg"
    write_jpeg(made, shade, Camera(), clock())
    assert take_file(book, made, clock()).new
    real_jpeg(made, shade + 1, Camera(), clock())
    with pytest.raises(PictureError, match="practice logbook"):
        take_file(book, made, clock())
    assert book.shots.newest(1000) == []
