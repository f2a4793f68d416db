"""Keys are registered by who handles them, and a key that nobody handles does not start."""

import typing

import pytest
from PySide6.QtWidgets import QWidget

from ondine.studio.events import Event
from ondine.ui.kit.bridge import Bridge
from ondine.ui.shell.keys import KEYS, bind_keys


def actions() -> dict[str, object]:
    return {key.action: lambda *_: None for key in KEYS if key.keys}


def test_every_key_of_the_page_does_something_or_is_answered_where_it_is_pressed():
    for key in KEYS:
        assert key.keys or key.shown
        assert (key.shown == "") == (key.does == "")


def test_a_key_that_nobody_handles_is_named(qtbot):
    window = QWidget()
    qtbot.addWidget(window)
    lacking = actions()
    del lacking["undo"]
    with pytest.raises(ValueError, match="nobody handles undo"):
        bind_keys(window, [lacking])


def test_an_action_of_two_parts_is_named(qtbot):
    window = QWidget()
    qtbot.addWidget(window)
    with pytest.raises(ValueError, match="registered twice: undo"):
        bind_keys(window, [actions(), {"undo": lambda: None}])


def test_the_window_hears_every_kind_of_event(bench):
    kinds = set(typing.get_args(Event))
    # The log hears its own.
    assert bench.window.log is not None
    assert bench.bridge.kinds == kinds


def test_handlers_hear_their_kind_alone_in_the_order_they_asked(qapp):
    bridge, heard = Bridge(), []
    bridge.on(int, lambda event: heard.append(("first", event)))
    bridge.on(int, lambda event: heard.append(("second", event)))
    bridge.on(str, lambda event: heard.append(("other", event)))
    bridge.send(3)
    bridge.send(2.5)
    assert heard == [("first", 3), ("second", 3)]
