from ondine.core.timing.snapping import Snap
from ondine.ui.kit.choices import following


def test_choices_come_in_turn_and_begin_again():
    walked = [Snap.OFF]
    for _ in Snap:
        walked.append(following(walked[-1]))
    assert walked == [*Snap, Snap.OFF]
