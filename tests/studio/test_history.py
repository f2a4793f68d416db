from hypothesis import given
from hypothesis import strategies as st

from ondine.studio.history import History


@given(st.lists(st.integers(), max_size=30))
def test_undo_and_redo_walk_the_same_way(values):
    history = History(0)
    states = [0]
    for value in values:
        if history.push(value, f"to {value}"):
            states.append(value)
    back = [history.present]
    while history.undo() is not None:
        back.append(history.present)
    assert back == states[::-1]
    forth = [history.present]
    while history.redo() is not None:
        forth.append(history.present)
    assert forth == states


def test_one_gesture_is_one_step():
    history = History(0)
    for value in (1, 2, 3):
        history.push(value, f"to {value}", "drag")
    history.end_gesture()
    history.push(4, "to 4", "drag")
    # A step is called after its beginning.
    assert history.undo() == "to 4" and history.present == 3
    assert history.undo() == "to 1" and history.present == 0
    assert history.undo() is None and history.redoes == "to 1"


def test_a_new_step_forgets_what_was_taken_back():
    history = History("a")
    history.push("b", "write b")
    history.undo()
    history.push("c", "write c")
    assert history.redoes is None and history.undoes == "write c"
