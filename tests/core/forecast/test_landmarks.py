from ondine.core.forecast.events import EventKind, events
from ondine.core.forecast.landmarks import landmarks_of, predicts_for
from ondine.core.forecast.whole import forecast
from ondine.core.timing.conventions import Convention, Landmarks, LightFrom
from ondine.core.timing.notation import read, write
from ondine.demo.scenario import MILL_RACE, RACE, START, TIDAL_MILL
from tests.calibrated import TAUGHT


def test_landmarks_are_the_mean_times_of_the_first_touchdown_and_meeting():
    found = events(forecast(TIDAL_MILL, TAUGHT, START))
    first = {
        kind: min(e.time_s.mean for e in found if e.kind is kind) for kind in (EventKind.TOUCHDOWN, EventKind.MEETING)
    }
    marks = predicts_for(TIDAL_MILL, TAUGHT)(START.drops)
    assert marks == Landmarks(round(1e6 * first[EventKind.TOUCHDOWN]), round(1e6 * first[EventKind.MEETING]))


def test_what_does_not_happen_is_no_landmark():
    alone = predicts_for(TIDAL_MILL, TAUGHT)(START.drops[:1])
    assert alone.touchdown_us is not None and alone.meeting_us is None
    assert landmarks_of([]) == Landmarks()


def test_a_flash_counted_from_the_predicted_meeting_comes_back_exactly():
    predicts = predicts_for(MILL_RACE, TAUGHT)
    for light_from in (LightFrom.TOUCHDOWN, LightFrom.MEETING):
        line = write(RACE, Convention(light_from=light_from), "ms", predicts)
        assert read(line, predicts).sequence == RACE.ordered()
