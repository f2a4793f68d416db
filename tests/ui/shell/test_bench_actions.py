def test_the_dark_room_goes_black_while_it_fires(bench, qtbot):
    window = bench.window
    window.toggle_theme()
    seen: list[bool] = []
    bench.controller.before = lambda: seen.append(window.navigation.blank.isVisible())
    window.bench_actions.fire()
    bench.settle(qtbot)
    assert seen == [True]
    assert not window.navigation.blank.isVisible()
