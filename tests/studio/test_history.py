from hypothesis import given
from hypothesis import strategies as st

from ondine.studio.history import History


@given(st.lists(st.integers(), max_size=30))
def test_undo_and_redo_walk_the_same_way(values):
    history = History(0)
    states = [0]
    for value in values:
        if history.push(value):
            states.append(value)
    back = [history.present]
    while history.undo():
        back.append(history.present)
    assert back == states[::-1]
    forth = [history.present]
    while history.redo():
        forth.append(history.present)
    assert forth == states


def test_one_gesture_is_one_step():
    history = History(0)
    for value in (1, 2, 3):
        history.push(value, "drag")
    history.end_gesture()
    history.push(4, "drag")
    assert history.undo() and history.present == 3
    assert history.undo() and history.present == 0
    assert not history.undo()


def test_a_new_step_forgets_what_was_taken_back():
    history = History("a")
    history.push("b")
    history.undo()
    history.push("c")
    assert not history.can_redo and history.can_undo
