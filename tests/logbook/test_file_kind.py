"""What a file is, by its content alone."""

import shutil
from pathlib import Path

import pytest

from ondine.logbook.file_kind import FileKind, FileKindError, kind_of_file
from ondine.logbook.recipe import write_recipe
from ondine.logbook.setup_file import write_setup
from ondine.logbook.store import Logbook
from tests.calibrated import IN_HAND

SEASON = Path(__file__).parents[2] / "src" / "ondine" / "demo" / "season"


def test_a_name_that_lies_does_not_matter(tmp_path):
    logbook, recipe, setup = tmp_path / "a.json", tmp_path / "b.ondine", tmp_path / "c.json"
    Logbook.open(logbook).close()
    recipe.write_text(write_recipe(IN_HAND))
    write_setup(IN_HAND.setup, IN_HAND.belief, setup)
    assert [kind_of_file(path) for path in (logbook, recipe, setup)] == [
        FileKind.LOGBOOK, FileKind.RECIPE, FileKind.SETUP,
    ]  # fmt: skip
    recipe.write_bytes(b"\xef\xbb\xbf" + recipe.read_bytes())
    assert kind_of_file(recipe) is FileKind.RECIPE


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "no JSON"), (b"95 ms", "no JSON"), (b"\x00\xff\xfe", "no text"), (b"[1]", "does not say"),
        (b'{"format": ["ondine-recipe"]}', "does not say"), (b'{"format": "ondine-forecast"}', "does not say"),
        (b"[" * 100_000, "no JSON"), (b" " * 1_100_000, "more than"),
    ],
)  # fmt: skip
def test_anything_else_is_refused_in_a_sentence(tmp_path, content, says):
    path = tmp_path / "x.json"
    path.write_bytes(content)
    with pytest.raises(FileKindError, match=says) as refused:
        kind_of_file(path)
    assert str(refused.value).startswith("x.json is no logbook, recipe or set-up")


def test_pictures_folders_devices_and_what_is_not_there(tmp_path):
    picture = tmp_path / "p.json"
    shutil.copyfile(SEASON / "060.jpg", picture)
    for path, says in (
        (picture, "is a picture"), (tmp_path, "folder or a device"), (Path("/dev/zero"), "folder or a device"),
        (tmp_path / "none.ondine", "Check the name"),
    ):  # fmt: skip
        with pytest.raises(FileKindError, match=says):
            kind_of_file(path)
