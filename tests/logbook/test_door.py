"""What comes in from elsewhere is a regular file of a bounded size, and JSON that can be written again."""

import json
import os
import threading
import time

import pytest

from ondine.core.setup import Flash
from ondine.logbook.door import DoorError, check_file, read_bytes
from ondine.logbook.recipe import RecipeError, parse_recipe, read_recipe, write_recipe
from ondine.logbook.setup_file import SetupFileError, parse_setup, read_setup, write_setup
from tests.calibrated import IN_HAND

GOOD = json.loads(write_recipe(IN_HAND))


def test_pipes_devices_and_folders_do_not_hold_anybody_up(tmp_path):
    os.mkfifo(tmp_path / "pipe.json")
    (tmp_path / "zero.json").symlink_to("/dev/zero")
    (tmp_path / "folder.json").mkdir()
    refusals: list[str] = []

    def read() -> None:
        for name in ("pipe.json", "zero.json", "folder.json"):
            for reader, error in ((read_recipe, RecipeError), (read_setup, SetupFileError)):
                with pytest.raises(error, match="not a file") as caught:
                    reader(tmp_path / name)
                refusals.append(str(caught.value))

    reading = threading.Thread(target=read, daemon=True)
    reading.start()
    reading.join(10)
    assert len(refusals) == 6 and all("cannot be read" in said for said in refusals)


def test_what_is_too_large_is_refused_before_it_is_read(tmp_path):
    huge = tmp_path / "huge.json"
    with huge.open("wb") as file:
        file.truncate(10**12)
    with pytest.raises(RecipeError, match=r"1000000\.0 MB, more than the 1 MB"):
        read_recipe(huge)


def test_a_file_that_grows_while_it_is_read_is_bounded_too(tmp_path, monkeypatch):
    path = tmp_path / "a"
    path.write_bytes(b"x" * 100)
    monkeypatch.setattr("ondine.logbook.door.check_file", lambda *_: None)
    with pytest.raises(DoorError, match="more than"):
        read_bytes(path, 50)


def test_a_name_that_is_no_text(tmp_path):
    path = tmp_path / os.fsdecode(b"\xff.json")
    path.write_text("{}")
    with pytest.raises(DoorError, match="no text"):
        check_file(path, 100)


@pytest.mark.parametrize("number", ["1e400", "-1e999", "Infinity", "NaN", "9" * 5000])
def test_numbers_that_are_none_are_refused_in_unknown_fields_too(number):
    recipe = write_recipe(IN_HAND).rstrip().removesuffix("}") + f', "of_a_newer_one": [{number}]}}'
    with pytest.raises(RecipeError, match="not valid JSON"):
        parse_recipe(recipe, "mine.json")
    setup = f'{{"format": "ondine-setup", "version": 2, "setup": {{"later": {number}}}}}'
    with pytest.raises(SetupFileError):
        parse_setup(setup, "mine.json")


def test_what_was_unknown_can_be_written_again(tmp_path):
    setup, belief = parse_setup(
        '{"format": "ondine-setup", "version": 2, "setup": {"later": {"deep": [1e300, 18446744073709551616]}}}', "x"
    )
    write_setup(setup, belief, tmp_path / "a.json")
    assert json.loads((tmp_path / "a.json").read_text())["setup"]["later"] == {"deep": [1e300, 2**64]}


def test_a_table_of_a_hundred_thousand_flashes_is_refused_at_once():
    # Twelve seconds once: each was made before anybody counted.
    units = [{"name": Flash().name}] * 20_000
    began = time.process_time()
    with pytest.raises(RecipeError, match=r"setup\.light\.units"):
        parse_recipe(json.dumps({**GOOD, "setup": {"light": {"units": units}}}), "mine.json")
    assert time.process_time() - began < 2


def test_many_wrong_fields_are_not_all_said():
    bad = {**GOOD, "setup": {"light": {"units": [{"power": "x" * 500}] * 40}}}
    with pytest.raises(RecipeError, match="and 32 more") as caught:
        parse_recipe(json.dumps(bad), "mine.json")
    assert len(str(caught.value)) < 2000
