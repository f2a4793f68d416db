"""A camera's clock is found from times alone. Made-up cards; the truth is what they were made from."""

import numpy as np
import pytest
from benchmarks.log.cards import made_card
from benchmarks.log.clock import strayed
from hypothesis import given, settings
from hypothesis import strategies as st

from ondine.core.log.camera_clock import Anchor, Clock
from ondine.core.log.card_clock import CardMatch, match_card


def shots_of(match: CardMatch, frames: int) -> list[int]:
    found = [-1] * frames
    for pair in match.pairs:
        found[pair.frame] = pair.shot
    return found


def wrong_but_sure(match: CardMatch, truth) -> int:
    return sum(pair.sure and truth[pair.frame] != pair.shot for pair in match.pairs)


@pytest.fixture
def irregular() -> np.ndarray:
    return np.cumsum(np.random.default_rng(5).uniform(10, 60, 160))


@pytest.mark.parametrize("seed", range(8))
def test_a_card_with_missing_and_extra_frames(seed):
    card = made_card(np.random.default_rng(1000 + seed), 160)
    found = match_card(card.shots_s, card.frames_s, card.fractions)
    right = np.array(shots_of(found, len(card.frames_s))) == card.truth
    assert right.mean() >= 0.99 and wrong_but_sure(found, card.truth) == 0
    sure = sum(pair.sure for pair in found.pairs)
    assert sure >= 0.8 * (card.truth >= 0).sum()
    (clock,) = found.clocks
    wanted = card.offset_s + card.drift_s_per_day / 86_400 * (clock.at_s - card.shots_s[0])
    assert clock.offset_s == pytest.approx(wanted, abs=0.3)


def test_strays_make_no_second_camera():
    count = strayed(range(40))
    assert count.clocks_too_many == 0
    assert count.right_and_sure >= 0.95 * count.of_shots and count.wrong_and_sure <= 0.0015 * count.frames


def test_a_stray_off_the_clock_is_not_sure_though_a_shot_lacks_its_frame(irregular):
    """Of before: a frame up to a second off was sure."""
    own = np.floor(irregular + 100.3)
    # Where the next whole second is as far away as that.
    strays = [n for n in range(160) if 0.75 < own[n] + 1.5 - irregular[n] - 100.3 < 1.0]
    assert len(strays) > 20
    for n in strays[:8]:
        frames = own.copy()
        frames[n] += 1
        found = match_card(irregular, frames, fractions=False)
        assert not any(pair.sure for pair in found.pairs if pair.frame == n)
        assert sum(pair.sure for pair in found.pairs) >= 150


def anchors_of(shots: np.ndarray, offset_s: float) -> list[Anchor]:
    return [Anchor(float(np.floor(at + offset_s)) + 0.5, float(at)) for at in shots]


@pytest.mark.parametrize("last", [1, 2, 3])
def test_the_last_frames_of_a_card_that_is_known_find_their_shots(irregular, last):
    shots = irregular[:15]
    frames = np.floor(shots[-last:] + 4321.6)
    found = match_card(shots[-last - 2 :], frames, False, anchors_of(shots[:-last], 4321.6))
    assert shots_of(found, last) == list(range(2, last + 2)) and all(pair.sure for pair in found.pairs)


def test_anchors_match_nothing_that_is_not_there(irregular):
    shots = irregular[:15]
    frames = np.floor(shots[-3:] + 4321.6 + np.array([5.0, -7.0, 4.0]))
    found = match_card(shots[-5:], frames, False, anchors_of(shots[:-3], 4321.6))
    assert not any(pair.sure for pair in found.pairs)


def test_anchors_on_both_sides_of_a_clock_that_was_set_do_not_tell_one_clock(irregular):
    shots = irregular[:60]
    offsets = np.where(np.arange(60) < 30, 100.3, 3700.3)
    frames = np.floor(shots + offsets)
    known = [Anchor(float(frames[n]) + 0.5, float(shots[n])) for n in (0, 1, 2, 57, 58, 59)]
    found = match_card(shots[3:57], frames[3:57], False, known)
    right = np.array(shots_of(found, 54)) == np.arange(54)
    assert right.mean() >= 0.9 and wrong_but_sure(found, range(54)) == 0


@pytest.mark.parametrize("seed", range(4))
def test_a_second_camera_that_names_itself_is_known_by_fewer_frames(irregular, seed):
    rng = np.random.default_rng(seed)
    lost = rng.choice(160, 40, replace=False)
    second = np.sort(lost[:6])
    strays = rng.uniform(irregular[0], irregular[-1], 30) + 100.3
    frames = np.floor(np.concatenate([np.delete(irregular, lost) + 100.3, irregular[second] + 877.3, strays]))
    bodies = np.repeat([0, 1, 0], [120, 6, 30])
    named = match_card(irregular, frames, False, bodies=bodies)
    assert [clock.body for clock in named.clocks] == [0, 1]
    assert shots_of(named, len(frames))[120:126] == second.tolist()
    assert len(match_card(irregular, frames, False).clocks) == 1


def test_two_cameras_of_one_time_do_not_make_each_other_doubtful(irregular):
    bodies = np.arange(160) % 2
    found = match_card(irregular, np.floor(irregular + 100.3 + 0.2 * bodies), False, bodies=bodies)
    assert len(found.clocks) == 2 and sum(pair.sure for pair in found.pairs) >= 150


def test_the_order_in_which_they_are_given_plays_no_part(irregular):
    rng = np.random.default_rng(1)
    frames = np.floor(irregular + 777.3)
    by_shot, by_frame = rng.permutation(len(irregular)), rng.permutation(len(frames))
    found = match_card(irregular[by_shot], frames[by_frame], fractions=False)
    assert len(found.pairs) == len(frames)
    assert all(by_shot[pair.shot] == by_frame[pair.frame] for pair in found.pairs)


@pytest.mark.parametrize("hour_s", [3600, -3600])
def test_a_clock_that_was_set_in_between_is_two_clocks(irregular, hour_s):
    frames = np.floor(irregular + 100.3)
    frames[90:] += hour_s
    found = match_card(irregular, frames, fractions=False)
    offsets = sorted(clock.offset_s for clock in found.clocks)
    assert offsets == pytest.approx(sorted([100.3, 100.3 + hour_s]), abs=0.4)
    truth = range(len(irregular))
    right = np.array(shots_of(found, len(frames))) == np.arange(len(frames))
    assert right.mean() >= 0.95 and wrong_but_sure(found, truth) == 0


def test_a_computer_whose_clock_jumps_back_an_hour_between_two_shots(irregular):
    shots = irregular.copy()
    shots[80:] -= 3600
    found = match_card(shots, np.floor(irregular + 5.2), fractions=False)
    right = np.array(shots_of(found, len(irregular))) == np.arange(len(irregular))
    assert right.mean() >= 0.95 and wrong_but_sure(found, range(len(irregular))) == 0


def test_shots_of_one_pace_whose_first_or_last_frame_is_missing_are_never_sure():
    shots = np.arange(60) * 41.0
    for frames in (shots[:-1], shots[1:]):
        found = match_card(shots, np.floor(frames + 12.2), fractions=False)
        assert len(found.pairs) == 59 and not any(pair.sure for pair in found.pairs)
        assert found.clocks[0].weight < 0.6


def test_an_anchor_tells_which_of_them_it_is():
    shots = np.arange(60) * 41.0
    frames = np.floor(shots[1:] + 12.2)
    # The clock card was photographed before the first shot.
    found = match_card(shots, frames, False, [Anchor(-300.0 + 12.2, -300.0)])
    assert shots_of(found, 59) == list(range(1, 60)) and all(pair.sure for pair in found.pairs)


def test_a_clock_set_by_hand_is_taken_as_it_is(irregular):
    frames = np.floor(irregular + 100.3)
    found = match_card(irregular, frames, False, clock=Clock(100.3 + 7200))
    assert found.clocks == (Clock(100.3 + 7200),)
    assert len(found.pairs) < len(frames) / 2
    assert len(match_card(irregular, frames, False, clock=Clock(100.3)).pairs) == len(frames)


def test_other_pictures_on_the_card_belong_to_no_shot(irregular):
    others = np.sort(np.random.default_rng(2).uniform(-5e5, -1e5, 300))
    frames = np.floor(np.concatenate([others, irregular[:60] + 40.1]))
    found = match_card(irregular[:60], frames, fractions=False)
    assert shots_of(found, 360) == [-1] * 300 + list(range(60))
    assert found.frames_left == tuple(range(300)) and found.shots_left == ()


def test_what_has_nothing_in_common_is_not_matched(irregular):
    rng = np.random.default_rng(7)
    for _ in range(5):
        found = match_card(irregular, np.floor(rng.uniform(0, irregular[-1], 120)), fractions=False)
        assert not any(pair.sure for pair in found.pairs) and len(found.pairs) < 60


def test_frames_in_the_reach_of_two_shots_are_doubtful():
    shots = np.array([0.0, 60.0, 100.0, 100.9, 200.0, 290.0, 333.0])
    found = match_card(shots, np.floor(shots + 50.4), fractions=False)
    sure = {pair.shot: pair.sure for pair in found.pairs}
    assert not sure[2] and not sure[3] and sure[0] and sure[4]
    assert {pair.shot for pair in found.doubtful} == {2, 3}


@pytest.mark.parametrize("count", [0, 1, 2, 3])
def test_too_few_tell_no_clock(irregular, count):
    found = match_card(irregular[:count], np.floor(irregular[:count] + 5), fractions=False)
    assert found.clocks == () and found.pairs == ()
    assert found.frames_left == found.shots_left == tuple(range(count))


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(-1e6, 1e9), max_size=12), st.lists(st.floats(-1e6, 1e9), max_size=12), st.booleans())
def test_whatever_times_there_are_each_frame_and_shot_is_told_of_once(shots, frames, fractions):
    found = match_card(np.array(shots), np.array(frames), fractions)
    assert sorted([pair.frame for pair in found.pairs] + list(found.frames_left)) == list(range(len(frames)))
    assert sorted([pair.shot for pair in found.pairs] + list(found.shots_left)) == list(range(len(shots)))


def test_sittings_months_apart_have_clocks_of_their_own(irregular):
    shots = np.concatenate([irregular[:60], irregular[60:110] + 90 * 86_400, irregular[110:] + 200 * 86_400])
    offsets = np.repeat([40.0, 95.0, 170.0], [60, 50, len(irregular) - 110])
    found = match_card(shots, np.floor(shots + offsets), fractions=False)
    assert [round(clock.offset_s) for clock in found.clocks] == [40, 95, 170]
    assert shots_of(found, len(shots)) == list(range(len(shots)))


def test_a_drift_is_told_over_days_and_not_over_an_evening(irregular):
    days = np.sort(np.concatenate([irregular + n * 86_400 for n in range(6)]))
    for shots, told in ((irregular, False), (days, True)):
        frames = np.floor(shots + 50.3 + 1.6 / 86_400 * (shots - shots[0]))
        (clock,) = match_card(shots, frames, fractions=False).clocks
        assert clock.drift_is_known == told
        assert (
            abs(clock.drift_s_per_day - 1.6) < 3 * clock.drift_sd_s_per_day and (clock.drift_sd_s_per_day < 0.1) == told
        )
