from scipy import constants

from ondine.core.constants import STANDARD_GRAVITY_M_S2, US_PER_S


def test_constants_are_those_of_the_si():
    # CGPM 1901, and SciPy's table (CODATA).
    assert STANDARD_GRAVITY_M_S2 == constants.g == 9.80665
    assert US_PER_S * constants.micro == 1
