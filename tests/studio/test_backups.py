from datetime import timedelta

from ondine.logbook.backup import backups, folder_of
from ondine.studio.events import Notice, Trouble


def wait(table) -> None:
    table.studio.backups._worker.wait()


def test_one_copy_a_day_is_kept_by_itself(table, clock):
    table.studio.backups.begin()
    wait(table)
    # There is nothing yet to lose.
    assert backups(table.path) == []
    table.fire()
    table.settle()
    for hours, copies in ((0, 1), (5, 1), (19, 1), (24, 2), (30, 2)):
        clock.now = table.newest().at + timedelta(hours=hours)
        table.studio.backups.begin()
        wait(table)
        assert len(backups(table.path)) == copies
    assert not [event for event in table.events if isinstance(event, Notice | Trouble)]


def test_a_clock_that_stood_wrong_does_not_keep_today_s_copy_away(table, clock):
    table.fire()
    table.settle()
    now = clock.now
    clock.now = now + timedelta(days=900)
    table.studio.backups.begin()
    wait(table)
    clock.now = now
    table.studio.backups.begin()
    wait(table)
    assert len(backups(table.path)) == 2


def test_a_copy_that_is_asked_for_says_where_it_is(table):
    table.fire()
    table.settle()
    table.studio.backups.now()
    (notice,) = table.heard(Notice)
    (copy,) = backups(table.path)
    assert str(copy.path) in notice.message


def test_what_fails_is_told_and_the_logbook_goes_on(table):
    table.fire()
    table.settle()
    folder_of(table.path).write_text("a file where a folder should be")
    table.studio.backups.begin()
    (trouble,) = table.heard(Trouble)
    assert "No backup" in trouble.message
    table.fire()
    table.settle()
    assert table.studio.writer.logbook.shots.count() == 2
