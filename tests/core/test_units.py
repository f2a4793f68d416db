import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Setup
from ondine.core.setup.fields import about, leaves
from ondine.core.units import Length, Temperature, Units, quantity_of, value_words

UNITS = [Units(length, temperature) for length in Length for temperature in Temperature]


@pytest.mark.parametrize("units", UNITS)
@given(st.floats(1e-4, 5.0), st.floats(0.0, 40.0))
def test_lengths_and_temperatures_come_back_from_their_unit(units, length_m, temperature_c):
    for _ in range(50):
        length_m_again = units.length_m(units.length_shown(length_m))
        temperature_again = units.temperature_c(units.temperature_shown(temperature_c))
    assert length_m_again == pytest.approx(length_m, rel=1e-14)
    assert temperature_again == pytest.approx(temperature_c, abs=1e-13)


@given(st.floats(1e-4, 5.0))
def test_a_chain_of_units_does_not_drift(length_m):
    value = length_m
    for _ in range(200):
        for units in UNITS:
            value = units.length_m(units.length_shown(value))
    # 1200 conversions, each right to the last digit or two.
    assert value == pytest.approx(length_m, rel=1e-12)


def test_the_inch_and_the_degree_are_what_the_standards_say():
    # International yard and pound agreement, 1959: 1 in = 25.4 mm. ITS-90 scales: 100 °C = 212 °F.
    assert Units(Length.INCH).length_shown(0.0254) == pytest.approx(1.0, rel=1e-15)
    assert Units(temperature=Temperature.FAHRENHEIT).temperature_shown(100) == pytest.approx(212)
    assert Units(temperature=Temperature.FAHRENHEIT).temperature_c(-40) == pytest.approx(-40)


@pytest.mark.parametrize("units", UNITS)
def test_every_number_of_a_set_up_is_shown_in_some_unit_and_comes_back(units):
    for path, value in leaves(Setup()):
        if isinstance(value, int | float) and not isinstance(value, bool):
            how = quantity_of(path, units)
            assert how.inside(how.shown(value)) == pytest.approx(value, rel=1e-12, abs=1e-15), path


def test_values_are_written_as_people_read_them():
    inches = Units(Length.INCH, Temperature.FAHRENHEIT)
    assert value_words("valves.0.nozzle_height_m", 0.365, Units()) == "365 mm"
    assert value_words("valves.0.nozzle_height_m", 0.365, inches) == "14.37 in"
    assert value_words("mix.temperature_c", 19.0, inches) == "66 °F"
    assert value_words("light.units.0.power", 1 / 64, Units()) == "1/64"
    assert value_words("mix.measured_viscosity_pa_s", None, Units()) == "not measured"
    assert value_words("camera.portrait", True, Units()) == "yes"


def test_every_field_says_what_it_is_and_its_default_keeps_its_limits():
    for path, value in leaves(Setup()):
        known = about(Setup(), path)
        assert known.says and not known.says.endswith("."), path
        if known.low is not None and value is not None:
            assert known.low <= value <= known.high, path
