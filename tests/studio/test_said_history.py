from ondine.logbook.records import PastShot
from ondine.logbook.said import Said
from ondine.studio.events import Notice
from ondine.studio.log_events import ShotsChanged
from ondine.studio.said_history import MOST_STEPS, SaidHistory, Step

PLAIN = Said(0, False, "", None, frozenset(), frozenset())


def step(number: int) -> Step:
    return Step(f"step {number}", {1: PLAIN}, {1: Said(number, False, "", None, frozenset(), frozenset())})


def test_steps_are_taken_back_and_done_again_in_their_order():
    history = SaidHistory()
    assert history.undo() is None and history.redo() is None
    for number in (1, 2, 3):
        history.push(step(number))
    assert [history.undo().words for _ in range(2)] == ["step 3", "step 2"]
    assert history.redo().words == "step 2"
    history.push(step(4))
    assert history.redo() is None and history.undo().words == "step 4" and history.undo().words == "step 2"


def test_what_changed_nothing_is_no_step_and_the_oldest_are_forgotten():
    history = SaidHistory()
    history.push(Step("nothing", {1: PLAIN}, {1: PLAIN}))
    assert history.undo() is None
    for number in range(1, MOST_STEPS + 20):
        history.push(step(number))
    taken = 0
    while history.undo() is not None:
        taken += 1
    assert taken == MOST_STEPS


def test_what_is_said_of_shots_is_taken_back_from_the_logbook(table):
    for _ in range(3):
        table.fire()
        table.settle()
    log, book = table.studio.log, table.studio.writer.logbook
    log.tag_shots([1, 2, 3], "crown", on=True)
    log.rate(2, 5)
    log.annotate(2, "high")
    log.bin_shots([1, 3], binned=True)
    log.wait()
    for _ in range(3):
        log.undo()
    log.wait()
    shots = [book.shots.get(number) for number in (1, 2, 3)]
    assert not any(shot.binned for shot in shots) and (shots[1].rating, shots[1].note) == (0, "")
    assert [shot.shapes for shot in shots] == [("crown",)] * 3
    log.undo()
    log.undo()
    log.wait()
    assert [book.shots.get(number).shapes for number in (1, 2, 3)] == [(), (), ()]
    for _ in range(4):
        log.redo()
    log.wait()
    assert book.shots.get(2).note == "high" and book.shots.get(3).binned
    notices = [event.message for event in table.events if isinstance(event, Notice)]
    assert any("2 shots put into the bin" in words for words in notices)
    assert any("Nothing was said" in words for words in notices)
    assert {1, 3} <= set([event for event in table.events if isinstance(event, ShotsChanged)][-1].shots)


def test_many_shots_are_said_of_some_at_a_time_and_taken_back_as_one(table):
    """A shot that fires is written in between."""
    plan = table.studio.composer.plan

    book = table.studio.writer.logbook
    book.shots.add_history([PastShot("Many", table.controller.clock(), plan) for _ in range(1200)])
    numbers = list(range(1, 1201))
    table.studio.log.keep_shots(numbers, keeper=True)
    table.studio.log.wait()
    assert sum(shot.keeper for shot in book.shots.newest(2000)) == 1200
    table.studio.log.undo()
    table.studio.log.wait()
    assert not any(shot.keeper for shot in book.shots.newest(2000))
