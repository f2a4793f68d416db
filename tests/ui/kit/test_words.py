from ondine.ui.kit.words import Words


def test_words_know_their_room(qtbot):
    words = Words(12)
    qtbot.addWidget(words)
    words.resize(80, words.height())
    words.set_text("a line that is certainly longer than eighty pixels")
    assert words.needs().height() > words.height()
    assert words.fits("short", 80) and not words.fits(words.text(), 80)
    assert words.accessibleName() == words.text()
