import io
import json
import os
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from ondine.bench.simulated.frame import firing_of, rigs_of
from ondine.bench.simulated.hidden import HiddenRig
from ondine.bench.simulated.witness import seen as seen_shape
from ondine.cli import main
from ondine.core import plain
from ondine.core.belief.priors import Belief
from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import Goal
from ondine.core.coach.learning import Evidence, learn
from ondine.core.coach.proposal import propose
from ondine.core.forecast.plan import Plan
from ondine.core.forecast.prediction import Prediction
from ondine.core.setup import Camera
from ondine.core.timing.sequence import Sequence
from ondine.demo import card_evening
from ondine.demo.install import demo_logbook, install_demo, is_installed
from ondine.demo.scenario import NAMED, NOW, SEASON, SEED, START, TIDAL_MILL, season
from ondine.demo.taught import IN_HAND, TAUGHT, beliefs
from ondine.logbook.card import read_card
from ondine.logbook.recipe import write_recipe
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.studio.card_import import matched
from tests.frames import real_jpeg

DOCS = Path(__file__).parents[1] / "docs"
NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def test_forecast_as_a_table(capsys):
    assert main(["forecast", str(DOCS / "examples" / "tidal-mill.json")]) == 0
    out = capsys.readouterr().out
    assert "drop meets the jet (drop 2)" in out and "At the flash, 356.0 ms: full umbrella" in out


def test_forecast_as_json(capsys):
    assert main(["forecast", str(DOCS / "examples" / "tidal-mill.json"), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    meeting = next(e for e in told["events"] if e["event"] == "drop meets the jet")
    assert 0.34 < meeting["time_s"]["mean"] < 0.36 and meeting["time_s"]["sd"] > 0
    (flash,) = told["flashes"]
    assert sum(flash["shapes"].values()) == pytest.approx(1) and flash["time_us"] == 356_000


@pytest.mark.parametrize("text", ["{", '{"format": "ondine-recipe"}'])
def test_a_bad_recipe_is_explained_without_a_traceback(tmp_path, capsys, text):
    (tmp_path / "bad.json").write_text(text)
    assert main(["forecast", str(tmp_path / "bad.json")]) == 2
    said = capsys.readouterr()
    assert said.out == "" and "bad.json" in said.err and "Traceback" not in said.err


def test_import_pairs_files_with_the_shots_of_their_time(tmp_path, capsys):
    import numpy as np

    path = tmp_path / "log.ondine"
    book = Logbook.open(path)
    book.shots.add_history(
        [PastShot("s", NOON, Plan(START, TIDAL_MILL)), PastShot("s", NOON.replace(minute=5), Plan(START, TIDAL_MILL))]
    )
    book.close()
    pictures = []
    for name, at in (("b.jpg", NOON.replace(minute=5, second=1)), ("c.jpg", NOON.replace(hour=3))):
        real_jpeg(tmp_path / name, np.full((20, 30, 3), len(pictures) * 40, dtype=np.uint8), Camera(), at)
        pictures.append(str(tmp_path / name))
    (tmp_path / "broken.jpg").write_bytes(b"no")
    code = main(["import", *pictures, str(tmp_path / "broken.jpg"), "--logbook", str(path)])
    said = capsys.readouterr()
    assert code == 2 and "broken.jpg" in said.err
    assert "b.jpg: shot 2" in said.out and "c.jpg: no shot fits" in said.out
    assert main(["import", pictures[0], "--logbook", str(path)]) == 0
    assert "was logged before" in capsys.readouterr().out
    book = Logbook.open(path)
    assert book.shots.get(2).picture == tmp_path / "b.jpg" and book.shots.get(1).picture is None
    book.close()


def test_odd_files_do_not_end_an_import(tmp_path, capsys):
    path = tmp_path / "log.ondine"
    book = Logbook.open(path)
    book.shots.add_history([PastShot("s", NOON, Plan(START, TIDAL_MILL))])
    book.close()
    files = [tmp_path / name for name in ("loop.jpg", "zero.jpg", os.fsdecode(b"\xff.jpg"), "year1.jpg", "good.jpg")]
    files[0].symlink_to(files[0])
    files[1].symlink_to("/dev/zero")
    shade = np.full((40, 60, 3), 9, np.uint8)
    real_jpeg(files[2], shade, Camera(), NOON)
    real_jpeg(files[3], shade + 1, Camera(), datetime(1, 1, 2, tzinfo=UTC))
    real_jpeg(files[4], shade + 2, Camera(), NOON)
    assert main(["import", *map(str, files), "--logbook", str(path)]) == 2
    said = capsys.readouterr()
    assert "good.jpg: shot 1" in said.out and len(said.err.splitlines()) == 3


def test_export_and_its_refusals(tmp_path, capsys):
    path = tmp_path / "log.ondine"
    book = Logbook.open(path)
    book.shots.add_history([PastShot("s", NOON, Plan(START, TIDAL_MILL))])
    # Beside an open window too.
    assert main(["export", str(path), "--csv", str(tmp_path / "out.csv")]) == 0
    assert "1 shot written" in capsys.readouterr().out
    book.close()
    assert main(["export", str(tmp_path / "none"), "--csv", str(tmp_path / "x.csv")]) == 2
    assert not (tmp_path / "none").exists() and "There is no logbook" in capsys.readouterr().err


def test_a_slip_does_not_replace_the_logbook(tmp_path, capsys):
    path = tmp_path / "log.ondine"
    Logbook.open(path).close()
    before = path.read_bytes()
    assert main(["export", str(path), "--csv", str(path)]) == 2
    assert "must end in .csv" in capsys.readouterr().err
    assert main(["--logbook", str(path), "--screenshot", str(path)]) == 2
    assert "must end in .png" in capsys.readouterr().err
    assert path.read_bytes() == before


def test_a_dash_is_standard_output(tmp_path, capfdbinary):
    path = tmp_path / "log.ondine"
    book = Logbook.open(path)
    book.shots.add_history([PastShot("s", NOON, Plan(START, TIDAL_MILL), note="Füße\nnass")])
    book.close()
    assert main(["export", str(path), "--csv", "-"]) == 0
    written = capfdbinary.readouterr().out
    assert b"\r\r\n" not in written and "Füße\nnass" in written.decode("utf-8")
    assert not Path("-").exists()


def test_rescue_says_what_was_saved_and_writes_over_nothing(tmp_path, capsys):
    path = tmp_path / "log.ondine"
    book = Logbook.open(path)
    book.shots.add_history([PastShot("s", NOON, Plan(START, TIDAL_MILL))])
    book.close()
    assert main(["rescue", str(path), "--to", str(tmp_path / "new.ondine")]) == 0
    assert "Saved: 1 shot," in capsys.readouterr().out
    assert main(["rescue", str(path), "--to", str(path)]) == 2
    assert "exists already" in capsys.readouterr().err


@pytest.mark.parametrize("words", [["--size", "big"], ["--size", "1x1"], ["--view", "cellar"], ["forecast"]])
def test_wrong_words_are_usage_errors(words, capsys):
    with pytest.raises(SystemExit) as left:
        main(words)
    assert left.value.code == 2


def test_the_demo_holds_what_it_promises(tmp_path):
    seen: list[tuple[int, int]] = []
    install_demo(tmp_path, lambda done, of: seen.append((done, of)))
    assert is_installed(tmp_path) and seen[-1] == (136, 136)
    book = Logbook.open(demo_logbook(tmp_path))
    shots = book.shots.newest(1000)
    assert len(shots) >= 120
    assert {s.sitting for s in shots} == {*(p.name for p in season()), card_evening.NAME} and len(season()) == 4
    pictured = [s for s in shots if s.sitting != card_evening.NAME]
    assert all(s.picture is not None and s.picture.exists() for s in pictured)
    assert 10 <= sum(s.keeper for s in pictured) <= 30 and all(s.labels for s in pictured if s.keeper)
    # One evening's pictures are still on the card of a camera whose clock is off; its page finds out by how much.
    waiting = [s for s in shots if s.sitting == card_evening.NAME]
    assert len(waiting) == 16 and not any(s.picture for s in waiting)
    found = matched(book, read_card(tmp_path / "card"))
    assert found.match.clocks[0].offset_s == pytest.approx(card_evening.OFF.total_seconds(), abs=0.6)
    assert len(found.match.pairs) == 14 and all(pair.sure for pair in found.match.pairs)
    by_file = {found.frames[p.frame].path.name: found.shots[p.shot].at for p in found.match.pairs}
    evening = card_evening.shots()
    trial = max(card_evening.frames(), key=lambda f: f[1] - evening[f[2]].at.replace(tzinfo=None))
    wanted = {name: evening[number].at for name, _, number in card_evening.frames() if name != trial[0]}
    assert by_file == wanted and [found.frames[n].path.name for n in found.match.frames_left] == [trial[0]]
    shapes = {shape for s in shots for shape in s.shapes}
    assert {"in-flight", "touchdown", "crown", "crater", "rising-jet", "jet-top", "beaded-jet", "falling-jet", "ripples",
            "near-miss-above", "contact", "opening-umbrella", "full-umbrella", "torn-umbrella", "collapsed", "crater-hit",
            "double-umbrella", "merged-drop"} <= shapes  # fmt: skip
    book.close()


def test_an_interrupted_demo_begins_again(tmp_path):
    def stop(done: int, of: int) -> None:
        if done == 40:
            raise OSError("disk full")

    with pytest.raises(OSError, match="disk full"):
        install_demo(tmp_path, stop)
    assert not is_installed(tmp_path)
    # A kill leaves the half-made logbook, and the database's own files beside it.
    for ending in ("", "-wal", "-shm", ".lock"):
        (tmp_path / f"tidal-mill.ondine.part{ending}").write_bytes(b"x" * 100)
    install_demo(tmp_path)
    assert is_installed(tmp_path) and not list(tmp_path.glob("*.part*"))
    install_demo(tmp_path)
    assert is_installed(tmp_path)


def test_the_shipped_season_is_that_of_the_script():
    shipped = json.loads((SEASON / "season.json").read_text())
    for sitting in season():
        fired = [plain.read(Sequence, s["sequence"]) for s in shipped if s["sitting"] == sitting.name]
        assert len(fired) == (sitting.coached or len(sitting.shots))
        assert sitting.coached or fired == [shot.sequence for shot in sitting.shots]


def test_what_the_demo_believes_was_learned_from_the_season_s_shots():
    """By the coach that ships, from the tags that ship: the beliefs and the proposals of the third page come out anew."""
    shipped, known = json.loads((SEASON / "season.json").read_text()), beliefs()
    taught: list[Evidence] = []
    coached = next(sitting for sitting in season() if sitting.coached)
    proposed = START
    for number, shot in enumerate(shipped, start=1):
        table, sequence = NAMED[shot["table"]], plain.read(Sequence, shot["sequence"])
        if shot["sitting"] == coached.name and number <= 86:
            learned = learn(taught, table, Belief())
            assert known[shot["belief"]] == learned.believed(256), shot["belief"]
            proposed = propose(learned.belief, Goal(keeps_sizes=True), proposed).best.sequence
            assert sequence == proposed
        taught += [Evidence(table, Seen(sequence, shape, None, number)) for shape in shot["shapes"]]
    found = [shot["shapes"] for shot in shipped if shot["sitting"] == coached.name]
    # What the evenings before had taught may be enough for the first shot; and then it holds.
    first = found.index(["full-umbrella"])
    assert 1 <= first <= 4 and found[first:-1].count(["full-umbrella"]) >= 4
    assert known[f"{NOW}{TIDAL_MILL.name}"] == TAUGHT == learn(taught, TIDAL_MILL, Belief()).believed(256)


def test_what_was_learned_meets_the_simulated_rig():
    """Nothing of it was set by hand: the flash in hand shows a full umbrella on the hidden rig too."""
    assert (
        max(Prediction.of(TIDAL_MILL, TAUGHT, START).at(0).shapes.items(), key=lambda one: one[1])[0] == "full-umbrella"
    )
    rig = HiddenRig.from_seed(SEED)
    shown = []
    for shot in range(300, 310):
        what = firing_of(rigs_of(rig, SEED, TIDAL_MILL), SEED, shot, TIDAL_MILL, START, (0.118,))
        shown.append(seen_shape(what, START.first_flash_us / 1e6, TIDAL_MILL.camera.frame_top_m))
    assert shown.count("full-umbrella") >= 8


def opening_of(*words: str):
    from ondine.cli import _opening, _window_parser
    from ondine.studio.places import Places

    return _opening(_window_parser().parse_args(words), Places.of_user())


@pytest.fixture
def user(tmp_path, monkeypatch) -> Path:
    for what in ("DATA", "STATE", "CONFIG"):
        monkeypatch.setenv(f"XDG_{what}_HOME", str(tmp_path / what.lower()))
    return tmp_path


def test_without_a_word_the_last_logbook_opens_or_the_usual_one(user):
    from ondine.studio.places import Places

    usual = user / "data" / "ondine" / "log.ondine"
    opening, prepare = opening_of()
    assert (opening.logbook, opening.bench, opening.words, prepare) == (usual, None, "", None)
    other = user / "club.ondine"
    Logbook.open(other).close()
    Places.of_user().remember_logbook(other)
    assert opening_of()[0].logbook == other
    other.unlink()
    opening, _ = opening_of()
    assert opening.logbook == usual and str(other) in opening.words


def test_a_file_is_opened_by_its_content(user, capsys):
    logbook, recipe = user / "club", user / "friend"
    Logbook.open(logbook).close()
    recipe.write_text(write_recipe(IN_HAND))
    assert opening_of(str(logbook))[0].logbook == logbook
    opening, _ = opening_of(str(recipe))
    assert opening.take == recipe and opening.logbook.name == "log.ondine"
    assert opening_of("--demo", str(recipe))[0].take == recipe
    for given, says in ((str(user / "none.ondine"), "Check the name"), (str(user), "folder")):
        assert main([given]) == 2
        said = capsys.readouterr().err
        assert says in said and "Traceback" not in said


def test_practice_and_demo_have_logbooks_of_their_own(user):
    opening, _ = opening_of("--practice")
    assert opening.logbook.name == "practice.ondine" and str(opening.bench) == "simulated"
    opening, prepare = opening_of("--demo")
    assert opening.logbook.name == "tidal-mill.ondine" and prepare is not None and str(opening.bench) == "simulated"


def test_the_demo_refuses_the_logbook_of_a_table(user, capsys):
    mine = user / "log.ondine"
    book = Logbook.open(mine)
    book.state.put("bench", "by hand")
    book.close()
    before = mine.read_bytes()
    assert main(["--demo", "--logbook", str(mine), "--screenshot", str(user / "x.png")]) == 2
    assert "do not mix" in capsys.readouterr().err and mine.read_bytes() == before


LINE = "ms, from the trigger: A 0 open 22, A 95 open 22; flash from the trigger: 1 at 356"


def test_a_line_is_told_in_another_convention_and_as_json(capsys):
    assert main(["notation", LINE, "--to", "closing to opening, flash from the last closing"]) == 0
    told = capsys.readouterr().out.strip()
    assert told == "ms, closing to opening: A 0 open 22, A 73 open 22; flash from the last closing: 1 at 239"
    assert main(["notation", told, "--json"]) == 0
    assert plain.read(Sequence, json.loads(capsys.readouterr().out)["sequence"]) == START
    assert main(["notation", told, "--to", "us, start to start"]) == 0
    assert "A 95000 open 22000; flash from the trigger: 1 at 356000" in capsys.readouterr().out


def test_a_flash_is_told_from_the_meeting_that_is_predicted_for_a_recipe(capsys):
    recipe = str(DOCS / "examples" / "tidal-mill.json")
    assert main(["notation", LINE, "--to", "flash from the predicted meeting"]) == 2
    assert "No meeting is predicted" in capsys.readouterr().err
    assert main(["notation", LINE, "--to", "flash from the predicted meeting", "--recipe", recipe]) == 0
    told = capsys.readouterr().out
    delay = float(told.rsplit(" ", 1)[1])
    assert 2 < delay < 10
    assert main(["notation", told, "--json", "--recipe", recipe]) == 0
    assert plain.read(Sequence, json.loads(capsys.readouterr().out)["sequence"]) == START


def test_a_line_from_standard_input_and_a_wrong_one(capsys, monkeypatch):
    monkeypatch.setattr("sys.stdin", io.StringIO(LINE + "\n"))
    assert main(["notation", "-"]) == 0 and capsys.readouterr().out.strip() == LINE
    monkeypatch.setattr("sys.stdin", io.StringIO("x" * 3_000_000))
    assert main(["notation", "-"]) == 2 and "no sequence needs more" in capsys.readouterr().err
    assert main(["notation", LINE.replace("open 22;", "open 24000;")]) == 0
    assert "It cannot be fired so. Drop 2 opens for 24000 ms" in capsys.readouterr().err
    assert main(["notation", LINE.replace("95", "9５")]) == 2
    assert capsys.readouterr().err == "Column 39: found “５”, expected open.\n"


RACE_FILE = Path(__file__).parents[1] / "docs" / "examples" / "mill-race.json"


def pixels_of(path: Path) -> np.ndarray:
    with Image.open(path) as picture:
        assert picture.format == "PNG" and picture.mode == "RGB"
        return np.asarray(picture).astype(float)


def test_a_preview_is_written_in_the_frames_proportions(tmp_path, capsys):
    out = tmp_path / "splash.png"
    assert main(["preview", str(RACE_FILE), "--out", str(out), "--size", "360x600"]) == 0
    assert "360 × 240 pixels" in capsys.readouterr().out
    both = pixels_of(out)
    assert both.shape == (240, 360, 3)
    # One instant of another time is another picture, and its decimal may be a comma.
    assert main(["preview", str(RACE_FILE), "--at", "268,5", "--out", str(out), "--size", "360x600"]) == 0
    early = pixels_of(out)
    assert np.abs(both - early).mean() > 2
    # At the trigger there is still water: the same on both sides.
    assert main(["preview", str(RACE_FILE), "--at", "0", "--out", str(out), "--size", "360x600"]) == 0
    still = pixels_of(out)
    assert np.abs(still - still[:, ::-1]).mean() < 6


@pytest.mark.parametrize(("words", "says"), [
    (["--out", "splash.jpg"], ".png"),
    (["--at", "9999", "--out", "splash.png"], "between 0 and 5000 ms"),
    (["--at=-1", "--out", "splash.png"], "between 0 and 5000 ms"),
    (["--out", "no/such/folder/splash.png"], "cannot be written"),
])  # fmt: skip
def test_a_preview_that_cannot_be_says_why(tmp_path, capsys, monkeypatch, words, says):
    monkeypatch.chdir(tmp_path)
    assert main(["preview", str(RACE_FILE), "--size", "320x240", *words]) == 2
    assert says in capsys.readouterr().err
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("nonsense", ["soon", "1e3", "３５６x", "", "nan"])
def test_a_time_that_is_none_is_a_usage_error(capsys, nonsense):
    with pytest.raises(SystemExit) as left:
        main(["preview", str(RACE_FILE), f"--at={nonsense}", "--out", "splash.png"])
    assert left.value.code == 2 and "--at" in capsys.readouterr().err


def test_a_preview_of_what_cannot_be_fired_is_traced_all_the_same(tmp_path, capsys):
    late = tmp_path / "late.json"
    late.write_text(write_recipe(replace(IN_HAND, sequence=START.with_open(0, 900_000))), encoding="utf-8")
    out = tmp_path / "splash.png"
    assert main(["preview", str(late), "--out", str(out), "--size", "320x240"]) == 0
    assert "cannot be fired" in capsys.readouterr().err and out.exists()


def test_a_slip_does_not_replace_a_logbook_by_a_preview(tmp_path, capsys):
    path = tmp_path / "log.png"
    Logbook.open(tmp_path / "log.ondine").close()
    path.write_bytes((tmp_path / "log.ondine").read_bytes())
    before = path.read_bytes()
    assert main(["preview", str(RACE_FILE), "--out", str(path)]) == 2
    assert "would be lost" in capsys.readouterr().err and path.read_bytes() == before


def test_the_table_tells_times_in_another_convention_or_says_what_it_is_not(tmp_path, capsys):
    path = tmp_path / "log.ondine"
    book = Logbook.open(path)
    book.shots.add_history([PastShot("s", NOON, Plan(START, TIDAL_MILL))])
    book.close()
    out = tmp_path / "out.csv"
    assert main(["export", str(path), "--csv", str(out), "--to", "start to start, flash from the last closing"]) == 0
    assert '"start to start, flash from the last closing",0.0,95.0,239.0' in out.read_text()
    assert main(["export", str(path), "--csv", str(out), "--to", "backwards"]) == 2
    assert "found “backwards”, expected" in capsys.readouterr().err
