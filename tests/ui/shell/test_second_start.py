"""A second start brings the first window forth and hands it the file that was given."""

import os
import socket
import threading

from ondine.ui.shell import second_start
from ondine.ui.shell.second_start import SecondStarts, raise_first_window


def asking(logbook, take) -> tuple[threading.Thread, list[bool]]:
    answers: list[bool] = []
    thread = threading.Thread(target=lambda: answers.append(raise_first_window(logbook, take)))
    thread.start()
    return thread, answers


def test_the_first_window_hears_which_file_to_open(qapp, qtbot, tmp_path):
    heard: list[object] = []
    starts = SecondStarts(tmp_path / "log.ondine", heard.append, qapp)
    odd = tmp_path / os.fsdecode(b"f\xfcr zwei\nzeilen.json")
    for take in (None, tmp_path / "friend.json", odd):
        thread, answers = asking(tmp_path / "log.ondine", take)
        qtbot.waitUntil(lambda: bool(answers), timeout=3000)  # noqa: B023
        thread.join()
        assert answers == [True]
    assert heard == [None, tmp_path / "friend.json", odd]
    starts.close()


def test_nobody_answers_for_a_logbook_that_no_window_has(tmp_path):
    assert raise_first_window(tmp_path / "other.ondine", None) is False


def test_a_stranger_on_the_socket_harms_nothing(qapp, qtbot, tmp_path):
    heard: list[object] = []
    starts = SecondStarts(tmp_path / "log.ondine", heard.append, qapp)
    for sent in (b"", b"nonsense\n", b"raise", b"x" * 8000):
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as stranger:
            stranger.connect(second_start._address(tmp_path / "log.ondine"))
            stranger.sendall(sent)
            stranger.shutdown(socket.SHUT_WR)
            qtbot.wait(20)
    assert heard == []
    starts.close()
