"""What makes Ondine a citizen of a desktop, checked by the desktops' own validators where they are installed."""

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from ondine.cli import COMMANDS, VIEWS, _command_parser, _window_parser, main
from ondine.logbook.recipe import write_recipe
from ondine.logbook.setup_file import write_setup
from ondine.logbook.store import Logbook
from ondine.studio.desktop import APP_ID, Desktop
from tests.calibrated import IN_HAND

SHIPPED = Path(__file__).parents[2] / "src" / "ondine" / "assets" / "desktop"


def run(*command: str | Path, **environment: str) -> subprocess.CompletedProcess[str]:
    if not shutil.which(str(command[0])):
        pytest.skip(f"{command[0]} is not installed: ./dev installs it on Debian and Ubuntu")
    env = {**os.environ, **environment}
    return subprocess.run([*map(str, command)], capture_output=True, text=True, check=False, env=env, timeout=60)


@pytest.fixture
def desktop(tmp_path) -> Desktop:
    return Desktop(tmp_path / "share", Path("/opt/my tools/ondine"))


def test_the_menu_entry_is_valid(desktop):
    desktop.install()
    for entry in (SHIPPED / f"{APP_ID}.desktop", desktop.data / "applications" / f"{APP_ID}.desktop"):
        done = run("desktop-file-validate", entry)
        assert done.returncode == 0 and not done.stdout + done.stderr, done.stdout
    text = (desktop.data / "applications" / f"{APP_ID}.desktop").read_text()
    assert 'Exec="/opt/my tools/ondine" %f' in text and "Exec=ondine" not in text


def test_the_metainfo_is_valid():
    done = run("appstreamcli", "validate", "--no-net", SHIPPED / f"{APP_ID}.metainfo.xml")
    assert done.returncode == 0, done.stdout


def test_the_shared_mime_info_knows_ondines_files_by_their_content(desktop, tmp_path):
    desktop.install()
    assert run("update-mime-database", desktop.data / "mime").returncode == 0
    logbook, recipe, setup = tmp_path / "club", tmp_path / "friend.ondine-recipe.json", tmp_path / "t.ondine-setup.json"
    Logbook.open(logbook).close()
    recipe.write_text(write_recipe(IN_HAND))
    write_setup(IN_HAND.setup, IN_HAND.belief, setup)
    bare = tmp_path / "friend"
    shutil.copyfile(recipe, bare)
    (tmp_path / "new.ondine").touch()
    (tmp_path / "other.json").write_text('{"format": "another"}')
    ask = (
        "import sys; from PySide6.QtCore import QMimeDatabase\n"
        "for p in sys.argv[1:]: print(QMimeDatabase().mimeTypeForFile(p).name())"
    )
    files = [logbook, recipe, bare, setup, tmp_path / "new.ondine", tmp_path / "other.json"]
    done = run(sys.executable, "-c", ask, *files, XDG_DATA_HOME=str(desktop.data))
    assert done.stdout.split() == [
        "application/x-ondine-logbook", *["application/x-ondine-recipe+json"] * 2, "application/x-ondine-setup+json",
        "application/x-ondine-logbook", "application/json",
    ], done.stderr  # fmt: skip


def test_the_man_page_is_sound():
    done = run("man", "--warnings", "-l", SHIPPED / "ondine.1", MANPAGER="cat")
    assert done.returncode == 0 and not done.stderr.strip(), done.stderr


@pytest.mark.parametrize("name", ["ondine.1", "ondine.bash", "_ondine", "ondine.fish"])
def test_nothing_of_the_command_line_is_left_out(name):
    text = (SHIPPED / name).read_text().replace("\\-", "-")
    words = set(re.findall(r"(?:--|-l )([a-z][a-z-]+)", text))
    parsers = [_window_parser(), *_command_parser()._subparsers._group_actions[0].choices.values()]
    options = {o.removeprefix("--") for p in parsers for a in p._actions for o in a.option_strings if o[:2] == "--"}
    assert options <= words, options - words
    assert all(command in text for command in COMMANDS)
    if name != "ondine.1":
        assert all(re.search(rf"\b{view}\b", text) for view in VIEWS)


def test_bash_completes_options_views_and_commands(tmp_path):
    script = (
        f"source {SHIPPED / 'ondine.bash'}\n"
        'ask() { COMP_WORDS=("$@"); COMP_CWORD=$(($# - 1)); COMPREPLY=(); _ondine; echo "${COMPREPLY[*]}"; }\n'
        "ask ondine --inst; ask ondine --view fre; ask ondine resc; ask ondine export --c; ask ondine --theme ''\n"
    )
    done = run("bash", "-c", script)
    assert done.stdout.split("\n")[:5] == ["--install-desktop", "freeze", "rescue", "--csv", "day dark-room"], (
        done.stderr
    )


def test_all_is_put_in_place_and_taken_away_and_what_is_others_stays(desktop):
    theirs = desktop.data / "applications" / "theirs.desktop"
    theirs.parent.mkdir(parents=True)
    theirs.write_text("[Desktop Entry]\n")
    placed = desktop.install()
    assert len(placed) == 9 and all(path.is_file() for path in placed)
    assert desktop.install() == placed
    assert sorted(desktop.remove()) == sorted(placed)
    assert theirs.exists() and not any(path.exists() for path in placed)
    assert not (desktop.data / "man").exists() and desktop.remove() == []


def test_the_command_line_says_what_it_did_and_what_it_cannot(tmp_path, monkeypatch, capsys):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    assert main(["--install-desktop"]) == 0
    assert f"{APP_ID}.desktop" in capsys.readouterr().out
    assert main(["--remove-desktop"]) == 0
    assert "Taken away" in capsys.readouterr().out
    assert main(["--remove-desktop"]) == 0
    assert "Nothing of Ondine" in capsys.readouterr().out
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "file"))
    assert main(["--install-desktop"]) == 2
    said = capsys.readouterr().err
    assert "cannot be written" in said and "Traceback" not in said
