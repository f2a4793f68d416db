"""Compiled code does not outlive a change of anything that it was compiled from."""

import os

import pytest

from ondine.picture.compiled import drop_stale


@pytest.fixture
def kept(tmp_path):
    folder = tmp_path / "__pycache__"
    folder.mkdir()
    for name, seconds in (("tracer.py", 100), ("layout.py", 100), ("__pycache__/tracer.radiance.nbi", 200),
                          ("__pycache__/tracer.radiance.1.nbc", 201), ("__pycache__/tracer.cpython.pyc", 50)):  # fmt: skip
        (tmp_path / name).write_bytes(b"x")
        os.utime(tmp_path / name, (seconds, seconds))
    return folder


def test_what_is_newer_than_all_sources_is_kept(tmp_path, kept):
    drop_stale(tmp_path, kept)
    assert len(list(kept.iterdir())) == 3


def test_one_source_that_changed_takes_all_of_it(tmp_path, kept):
    os.utime(tmp_path / "layout.py", (300, 300))
    drop_stale(tmp_path, kept)
    assert [path.name for path in kept.iterdir()] == ["tracer.cpython.pyc"]


def test_where_nothing_lies_nothing_happens(tmp_path):
    (tmp_path / "a.py").write_bytes(b"")
    drop_stale(tmp_path, tmp_path / "none")
