from dataclasses import fields

from ondine.core.setup.triggers import FlashFiredBy, Release, Triggers


def test_every_link_has_a_lag_and_its_jitter():
    names = {f.name for f in fields(Triggers)}
    for link in ("wire", "infrared", "mirror", "shutter", "radio", "slave"):
        assert {f"{link}_lag_s", f"{link}_jitter_s"} <= names
        # Common practice, no published source: a link repeats better than it lags.
        assert getattr(Triggers(), f"{link}_jitter_s") < getattr(Triggers(), f"{link}_lag_s")


def test_the_usual_bench_fires_the_flash_itself_by_wire_with_the_mirror_up():
    usual = Triggers()
    assert (usual.flash_fired_by, usual.release, usual.mirror_up) == (FlashFiredBy.CONTROLLER, Release.WIRE, True)
    assert not usual.radio
    # Infrared is the slow and unsteady way to tell a shutter (common practice, no published source).
    assert usual.infrared_lag_s > 10 * usual.wire_lag_s and usual.infrared_jitter_s > 10 * usual.wire_jitter_s
