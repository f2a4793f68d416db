import threading
import time

from ondine.studio.debounce import Debounce


def test_many_requests_are_one_job():
    done: list[float] = []
    ran = threading.Event()
    afterwards = Debounce(lambda: (done.append(time.monotonic()), ran.set()), 0.15, "test")
    for _ in range(20):
        afterwards.ask()
        time.sleep(0.02)
    last = time.monotonic()
    assert ran.wait(3)
    afterwards.close()
    assert len(done) == 1 and done[0] >= last


def test_closing_does_what_was_asked_for():
    done: list[int] = []
    afterwards = Debounce(lambda: done.append(1), 30, "test")
    afterwards.ask()
    time.sleep(0.05)
    afterwards.close()
    assert done == [1]


def test_closing_without_a_request_does_nothing():
    done: list[int] = []
    Debounce(lambda: done.append(1), 0.05, "test").close()
    assert done == []
