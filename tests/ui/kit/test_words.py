from ondine.ui.kit.words import Words


def test_words_know_their_room(qtbot):
    words = Words(12)
    qtbot.addWidget(words)
    words.show()
    words.resize(80, words.height())
    words.set_text("a line that is certainly longer than eighty pixels")
    # What is too long for its line ends in dots, and the tip has all of it.
    assert words.needs().width() <= 80 and words.needs().height() <= words.height()
    assert words.toolTip() == words.text()
    words.resize(800, words.height())
    assert words.toolTip() == ""
    words.resize(80, words.height())
    assert words.fits("short", 80) and not words.fits(words.text(), 80)
    assert words.accessibleName() == words.text()
    two = Words(12, lines=2)
    qtbot.addWidget(two)
    two.resize(80, two.height())
    two.set_text("a line that is certainly longer\nand another that is longer too")
    assert two.needs().height() <= two.height()
    two.set_text("one that may be wrapped as it will")
    assert two.needs().height() > two.height() / 2
