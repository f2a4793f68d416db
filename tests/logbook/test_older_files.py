"""Files that older versions of Ondine wrote open with everything in them. tests/data holds them as they were written."""

import hashlib
import json
import shutil
import sqlite3
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.belief.priors import Belief, Prior
from ondine.core.forecast.plan import Plan
from ondine.core.light.session import LightSession
from ondine.core.setup import BenchKind, FlashFiredBy, Setup, Triggers
from ondine.core.setup.fields import put
from ondine.core.table.ledger import Ledger
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.core.timing.wire import sequence_from_json
from ondine.demo.scenario import NAMED, RACE, START, TIDAL_MILL
from ondine.logbook.file import SCHEMA_VERSION, claim
from ondine.logbook.identity import identity_of
from ondine.logbook.migrate import migrated
from ondine.logbook.query_line import Vocabulary, read_query
from ondine.logbook.recipe import read_recipe
from ondine.logbook.records import ShotState
from ondine.logbook.setup_file import read_setup
from ondine.logbook.snapshot import take_snapshot
from ondine.logbook.store import Logbook
from ondine.studio.composer import plan_kept
from ondine.studio.kept import KeptState
from tests.calibrated import IN_HAND

pytestmark = pytest.mark.migrations

DATA = Path(__file__).parents[1] / "data"
SEASON = Path(__file__).parents[2] / "src" / "ondine" / "demo" / "season"
# What the demo's rig had taught when these files were written, as far as it still holds: since then releases, jets and
# sheets have other laws, and what nobody asked then takes its default.
TAUGHT = Belief(
    lag_s=Prior(10.3e-3, 1.2e-3),
    flow_factor=Prior(1.0, 0.015),
    height_error_m=Prior(0.0, 1e-3),
)
SEASON_TAUGHT = replace(TAUGHT, merge_ratio=Prior(0.40, 0.06), crown_time_factor=Prior(1.1, 0.06))
"""The same of files of format 3 and later."""

BEGUN = datetime(2026, 6, 1, 18, 30, tzinfo=UTC)


def as_it_was(setup: Setup) -> Setup:
    """Until format 5 the table said of all units but the first that they are slaves; the demo's sheet was beige."""
    return put(put(setup, "light.units.1.slave", True), "light.background_tint", "#d8cfc0")


AS_IT_WAS = as_it_was(TIDAL_MILL)

THREE = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000), Pulse(133_000, 18_000)), 391_500)


@pytest.fixture
def old(tmp_path: Path) -> Path:
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v2.ondine", path)
    return path


def test_shots_of_format_2_are_all_there(old):
    book = Logbook.open(old)
    shots = book.shots.newest(1000)[::-1]
    fired, unknown, failed = ShotState.FIRED, ShotState.UNKNOWN, ShotState.FAILED
    assert [s.state for s in shots] == [fired, fired, fired, fired, failed, fired, unknown]
    assert [s.sequence for s in shots[:4]] == [START, START.with_flash(0, 358_000), THREE, START]
    first = shots[0]
    assert (first.shapes, first.rating, first.note) == (("full-umbrella", "off-axis"), 5, "für den Flur, «zuletzt»")
    assert first.picture == Path("/nowhere/FRAME0001.JPG") and first.at == BEGUN
    assert "Refill it" in shots[4].report and shots[5].report == "flash not ready"
    assert shots[1].at == BEGUN + timedelta(seconds=41)
    # Nobody wrote these down then.
    assert {s.flash_reports_us for s in shots} == {None} and {s.head_m for s in shots} == {None}
    book.close()


def test_set_ups_and_beliefs_of_format_2_part_and_stay_with_their_shots(old):
    book = Logbook.open(old)
    assert book.setups.of_shot(1) == (AS_IT_WAS, TAUGHT)
    setup, belief = book.setups.of_shot(4)
    assert setup == AS_IT_WAS and belief == TAUGHT
    # One table, two states of knowledge: learning made no other set-up.
    assert book.shots.get(1).setup_id == book.shots.get(4).setup_id
    assert book.shots.get(1).belief_id != book.shots.get(4).belief_id
    by_camera = Triggers(flash_fired_by=FlashFiredBy.CAMERA, sync_speed_s=1 / 160)
    setup, belief = book.setups.of_shot(5)
    # What was believed without a shot then, not what is now.
    assert setup == Setup(triggers=by_camera) and belief.lag_s == Prior(8e-3, 6e-3)
    kept = {k.name: k for k in book.setups.kept()}
    assert (
        kept["Low and gentle"].setup == as_it_was(NAMED["Low and gentle"]) and kept["Low and gentle"].belief == TAUGHT
    )
    assert kept["Taught"].belief == TAUGHT
    assert [(s.name, s.place, s.temperature_c, s.shots) for s in book.sittings.all()] == [
        ("Second evening", "", None, 4), ("First evening", "Mill loft", 19.5, 3),
    ]  # fmt: skip
    book.close()


def test_a_revision_is_the_address_of_its_content(old):
    Logbook.open(old).close()
    with sqlite3.connect(old) as raw:
        rows = raw.execute("SELECT id, content FROM setup_revision").fetchall()
        assert raw.execute("PRAGMA foreign_key_check").fetchall() == []
        assert raw.execute("PRAGMA user_version").fetchone()[0] == SCHEMA_VERSION
    raw.close()
    assert len(rows) == 3
    for address, content in rows:
        assert "beliefs" not in json.loads(content)
        assert address == hashlib.sha256(content.encode()).hexdigest()[:16]


def test_what_was_in_hand_is_in_hand_again(old):
    claimed = migrated(claim(old))
    state = take_snapshot(claimed, 60).state
    claimed.release()
    plan = plan_kept(KeptState(state), IN_HAND)
    assert plan.sequence == THREE and plan.setup == AS_IT_WAS
    assert plan.belief == TAUGHT
    assert state["theme"] == "dark-room" and Ledger.from_json(state["ledger"]) == Ledger(12, 5e-7, (0.5,))
    assert LightSession.from_json(state["light"]).clouding_stops == 0.5
    assert sequence_from_json(state["sequence"]) == THREE


def test_a_logbook_of_format_1_is_brought_up_to_date(tmp_path):
    path = tmp_path / "old.ondine"
    shutil.copyfile(DATA / "logbook-v2.ondine", path)
    with sqlite3.connect(path) as raw:
        for column in ("place", "temperature_c", "note", "preflight"):
            raw.execute(f"ALTER TABLE sitting DROP COLUMN {column}")
        raw.execute("DROP TABLE kept_setup")
        raw.execute("UPDATE alembic_version SET version_num = '0001'")
        raw.execute("PRAGMA user_version = 1")
        text = '{"name":"Old rig","light":{"name":"Unit A","power":0.015625},"rig":{"nozzle_height_m":0.3}}'
        raw.execute("UPDATE setup_revision SET content = ?", (text,))
    raw.close()
    book = Logbook.open(path)
    assert [s.name for s in book.sittings.all()] == ["Second evening", "First evening"]
    setup, _ = book.setups.of_shot(1)
    assert setup.light.power == 1 / 64 and setup.valves[0].nozzle_height_m == 0.3
    assert book.shots.get(1).sequence == START and book.setups.kept() == []
    book.close()


def test_recipe_and_set_up_of_format_1():
    assert read_recipe(DATA / "recipe-v1.json") == Plan(START, AS_IT_WAS, TAUGHT)
    assert read_setup(DATA / "setup-v1.json") == (AS_IT_WAS, TAUGHT)


def test_a_logbook_of_format_3_is_brought_up_to_date(tmp_path):
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v3.ondine", path)
    book = Logbook.open(path)
    shots = {s.id: s for s in book.shots.newest(1000)}
    assert len(shots) == 7 and shots[4].shapes == ("crown",) and shots[1].sequence == START
    # Until then nobody asked whether a picture was its shot's.
    assert shots[1].picture == Path("/nowhere/FRAME0001.JPG") and all(s.picture_sure for s in shots.values())
    assert book.setups.of_shot(1) == (AS_IT_WAS, TAUGHT)
    book.close()
    assert (tmp_path / "log.format-3.ondine").exists()


def test_each_shot_of_format_4_learns_which_bench_made_it(tmp_path):
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v4.ondine", path)
    with sqlite3.connect(path) as raw:
        raw.execute("UPDATE picture SET path = ? WHERE shot_id = 8", (str(SEASON / "061.jpg"),))
    raw.close()
    book = Logbook.open(path)
    shots = {s.id: s for s in book.shots.newest(1000)}
    simulated, by_hand = BenchKind.SIMULATED, BenchKind.BY_HAND
    assert {number: shot.bench for number, shot in shots.items()} == {
        1: simulated,  # it reported its flash
        2: simulated,  # in words that only the simulated bench had
        3: by_hand,
        4: simulated,
        5: BenchKind.UNKNOWN,  # nothing of it tells
        6: by_hand,  # a box was in use
        7: simulated,  # the demo's set-up; its picture is away
        8: simulated,  # its picture says so
    }
    assert shots[3].note == "the first of my own" and shots[3].shapes == ("full-umbrella",)
    # They do not agree, so nobody decides for the photographer what stands on this table.
    assert book.state.get("bench") is None
    book.close()


@pytest.mark.parametrize(("kept", "kind"), [((3, 6), "by hand"), ((1, 2, 7), "simulated")])
def test_a_logbook_of_format_4_whose_shots_agree_knows_its_bench(tmp_path, kept, kind):
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v4.ondine", path)
    with sqlite3.connect(path) as raw:
        for table, column in (("tag", "shot_id"), ("picture", "shot_id"), ("shot", "id")):
            raw.execute(f"DELETE FROM {table} WHERE {column} NOT IN ({', '.join(map(str, kept))})")
    raw.close()
    book = Logbook.open(path)
    assert book.state.get("bench") == kind
    book.close()


def test_shots_of_format_5_have_one_flash_and_their_drops_one_valve(tmp_path):
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v5.ondine", path)
    book = Logbook.open(path)
    shots = {s.id: s for s in book.shots.newest(1000)}
    assert [shots[n].sequence for n in (1, 2, 3)] == [START, THREE, START]
    assert [shots[n].flash_reports_us for n in (1, 2, 3)] == [(356_000,), (391_500,), None]
    assert [shots[n].bench for n in (1, 3)] == [BenchKind.SIMULATED, BenchKind.BY_HAND]
    assert shots[1].shapes == ("full-umbrella",) and shots[2].report == "flash not ready"
    assert book.setups.of_shot(1) == (AS_IT_WAS, SEASON_TAUGHT) and book.setups.of_shot(3)[0] == Setup()
    book.close()
    claimed = claim(path)
    state = KeptState(take_snapshot(claimed, 60).state)
    claimed.release()
    assert plan_kept(state, IN_HAND).sequence == THREE and state.words == ""
    assert (tmp_path / "log.format-5.ondine").exists()


def test_shots_of_format_6_are_searched_by_figures_words_and_time(tmp_path):
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v6.ondine", path)
    book = Logbook.open(path)
    shots = {s.id: s for s in book.shots.newest(1000)}
    assert shots[1].sequence == START and shots[2].sequence == RACE
    assert shots[2].flash_reports_us == (356_000, 367_000) and shots[1].shapes == ("full-umbrella",)
    assert not any(shot.keeper or shot.labels or shot.binned for shot in shots.values())
    assert shots[1].picture_sha256 == "a" * 64

    def found(line: str) -> list[int]:
        return book.search.ids(read_query(line, Vocabulary(datetime(2026, 6, 7, tzinfo=UTC)))).tolist()

    # Words at once; figures once they are told, beside the open window.
    assert found("lake") == [3, 2, 1] and found("each umbrella") == [2] and found("kitchen") == [3]
    assert found("full umbrella rating>=4 with picture") == [1] and found("glycerine not dye") == [3]
    assert found("flash 356") == [] and book.facts.waiting() == 3
    assert book.facts.tell(10) == 3
    assert found("flash 356") == [3, 2, 1] and found("drops 4") == [2] and found("height 365 gap 73") == [3, 1]
    book.close()
    assert (tmp_path / "log.format-6.ondine").exists()


def test_a_logbook_of_format_7_gains_an_identity_and_marks_of_what_is_removed(tmp_path):
    path = tmp_path / "log.ondine"
    shutil.copyfile(DATA / "logbook-v7.ondine", path)
    book = Logbook.open(path)
    shots = book.shots.page([1, 2, 3])
    assert [shots[n].keeper for n in (1, 2, 3)] == [True, False, False] and shots[3].binned
    assert shots[2].shapes == ("crown",) and shots[2].labels == ("foyer",) and shots[2].rating == 3
    assert [own.name for own in book.shapes.own()] == ["twin crown"] and book.names.searches() == {"crowns": "crown"}
    book.shots.toggle_tag(2, "crown")
    identity = identity_of(path)
    book.close()
    with sqlite3.connect(path) as raw:
        assert raw.execute("SELECT kind, shot_id, word FROM removed").fetchall() == [("tag", 2, "crown")]
    raw.close()
    # It keeps its identity from then on; the copy of what it was has none.
    Logbook.open(path).close()
    assert identity is not None and identity_of(path) == identity
    assert identity_of(tmp_path / "log.format-7.ondine") is None


def test_a_recipe_of_format_2_has_one_flash_and_one_valve():
    assert read_recipe(DATA / "recipe-v2.json") == Plan(START, AS_IT_WAS, SEASON_TAUGHT)
    assert read_setup(DATA / "setup-v2.json") == (AS_IT_WAS, SEASON_TAUGHT)
