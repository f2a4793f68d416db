from ondine.core.log.quantities import BY_KEY, QUANTITIES


def test_names_and_keys_are_each_of_one_figure():
    names = [name.casefold() for quantity in QUANTITIES for name in (quantity.name, *quantity.aliases)]
    assert len(names) == len(set(names)) and len(BY_KEY) == len(QUANTITIES)


def test_each_says_what_it_is_and_has_its_unit_in_its_key():
    units = {"ms": "ms", "mm": "mm", "mPa·s": "mpa_s", "°C": "c"}
    for quantity in QUANTITIES:
        assert quantity.says and (not quantity.unit or quantity.key.endswith(units[quantity.unit]))


def test_figures_are_written_without_idle_zeros():
    assert BY_KEY["gap_ms"].words(60.0) == "60 ms" and BY_KEY["gap_ms"].words(60.25) == "60.2 ms"
    assert BY_KEY["power"].words(1 / 64) == "1/64" and BY_KEY["f_number"].words(16.0) == "f/16"
    assert BY_KEY["f_number"].words(7.1) == "f/7.1" and BY_KEY["after_meeting_ms"].words(-0.01) == "0 ms"
