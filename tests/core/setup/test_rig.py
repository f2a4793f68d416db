from dataclasses import replace

from ondine.core.setup.fields import about, out_of_limits
from ondine.core.setup.rig import Bowl, Valve


def test_nothing_is_weighed_until_it_was():
    assert Valve().flow_sd_m3_s == Valve().dead_time_sd_s == 0.0


def test_a_landing_spot_may_lie_before_or_behind_the_middle_and_a_bowl_has_a_width():
    assert about(Bowl(), "landing_m").low == -about(Bowl(), "landing_m").high
    assert [path for path, _, _ in out_of_limits(replace(Bowl(), diameter_m=0.0))] == ["diameter_m"]
