"""The numbers of a simulated rig that nobody is told, drawn from a seed, and each shot's own luck."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np


@dataclass(frozen=True)
class Rooms:
    """How much of practice rigs are drawn from: the `share` of each range round its middle, by how much drops let go
    earlier or later from shot to shot, and how late the latest light is that nobody entered.
    """

    share: float = 1.0
    jitter_s: float = 1.5e-3
    latest_light_s: float = 120e-3


@dataclass(frozen=True)
class HiddenRig:
    """One rig of the simulated world. SI; exponents and factors are this world's own, not the predictor's."""

    valve_lag_s: float
    neck_share: float
    exit_speed_m_s: float
    discharge_m3_s_sqrt_m: float
    head_m: float
    reservoir_area_m2: float
    dead_time_s: float
    height_offset_m: float
    cavity_kick: float
    jet_factor: float
    jet_exponent: float
    sheet_stretch: float
    mixing: float
    timing_jitter_s: float
    volume_jitter: float
    off_axis_m: float
    bubble_odds: float
    camera_lag_s: float
    camera_jitter_s: float
    radio_lag_s: float
    room_lux: float
    flash_lag_s: float = 0.0
    jet_damping: float = 0.9
    cavity_loss: float = 0.0
    sheet_stiffness: float = 65.0
    sheet_damping: float = 40.0

    def of_valve(self, seed: int, valve: int) -> HiddenRig:
        """Return the same rig as it is at another of its valves, from 0: each valve has numbers of its own."""
        if valve == 0:
            return self
        other = HiddenRig.from_seed(seed + 7919 * valve)
        own = ("valve_lag_s", "neck_share", "exit_speed_m_s", "discharge_m3_s_sqrt_m", "dead_time_s", "height_offset_m")
        return replace(self, **{name: getattr(other, name) for name in own})

    @staticmethod
    def from_seed(seed: int) -> HiddenRig:
        """Draw a rig; the same seed gives the same rig."""
        rng = np.random.default_rng([seed, 71])
        return HiddenRig(
            valve_lag_s=float(rng.normal(9e-3, 1.5e-3)),
            neck_share=float(rng.normal(0.78, 0.06)),
            exit_speed_m_s=float(rng.normal(0.42, 0.06)),
            discharge_m3_s_sqrt_m=float(rng.normal(7.6e-6, 0.3e-6)),
            head_m=0.12,
            reservoir_area_m2=6.4e-3,
            dead_time_s=float(rng.normal(2.8e-3, 0.3e-3)),
            height_offset_m=float(rng.normal(0, 1.5e-3)),
            cavity_kick=float(rng.normal(0.86, 0.04)),
            jet_factor=float(rng.normal(2.35, 0.12)),
            jet_exponent=0.46,
            sheet_stretch=float(rng.normal(0.46, 0.03)),
            mixing=float(rng.normal(0.45, 0.08)),
            timing_jitter_s=0.35e-3,
            volume_jitter=0.01,
            off_axis_m=0.35e-3,
            bubble_odds=0.03,
            camera_lag_s=float(rng.normal(52e-3, 6e-3)),
            camera_jitter_s=1.2e-3,
            radio_lag_s=float(rng.uniform(0.4e-3, 1.2e-3)),
            room_lux=float(rng.uniform(0.1, 0.4)),
        )

    @staticmethod
    def of_practice(seed: int, flow_m3_s: float, head_m: float = 0.12, rooms: Rooms = Rooms()) -> HiddenRig:
        """Draw a rig from all that practice has: another valve, other laws of jets and sheets, a lag that nobody knows.

        flow_m3_s : what flows through its open valve at that head; rooms : how much of it, all of it unless given.
        """
        rng = np.random.default_rng([seed, 1709])

        def within(least: float, most: float) -> float:
            drawn, middle = float(rng.uniform(least, most)), (least + most) / 2
            return drawn if rooms.share == 1 else middle + rooms.share * (drawn - middle)

        stretch = within(0.38, 0.58)
        return HiddenRig(
            valve_lag_s=within(3e-3, 25e-3),
            neck_share=within(0.6, 1.0),
            exit_speed_m_s=within(0.1, 0.8),
            discharge_m3_s_sqrt_m=flow_m3_s / head_m**0.5,
            head_m=head_m,
            reservoir_area_m2=6.4e-3,
            dead_time_s=within(1.5e-3, 5e-3),
            height_offset_m=float(rng.normal(0, 5e-3)) * rooms.share,
            cavity_kick=within(0.74, 0.98),
            jet_factor=within(2.0, 2.9),
            jet_exponent=within(0.36, 0.58),
            sheet_stretch=stretch,
            mixing=within(0.2, 0.7),
            timing_jitter_s=rooms.jitter_s,
            volume_jitter=0.01,
            off_axis_m=0.35e-3,
            bubble_odds=0.03,
            camera_lag_s=52e-3,
            camera_jitter_s=1.2e-3,
            radio_lag_s=0.8e-3,
            room_lux=0.2,
            flash_lag_s=float(rng.uniform(0.0, rooms.latest_light_s)),
            jet_damping=within(0.3, 5.0),
            cavity_loss=within(0.0, 0.5),
            sheet_stiffness=within(45.0, 90.0),
            sheet_damping=within(20.0, 70.0),
        )


@dataclass(frozen=True)
class Luck:
    """One shot's own deviations: arrays with one entry per drop, and a phase for the lumps."""

    timing_s: np.ndarray
    volume: np.ndarray
    aside_m: np.ndarray
    wobble: np.ndarray
    phase: float
    bubbles: bool
    shutter_s: float = 0.0
    wild: tuple[float, ...] = ()

    def wildness(self, drop: int) -> float:
        """How much faster than it should be the jet is that a drop throws out of an open crater."""
        return self.wild[drop] if drop < len(self.wild) else 1.0

    @staticmethod
    def of_shot(rig: HiddenRig, seed: int, shot: int, drops: int) -> Luck:
        """Draw the luck of shot number `shot` on the rig of `seed`."""
        rng = np.random.default_rng([seed, shot, 5])
        return Luck(
            timing_s=rng.normal(0, rig.timing_jitter_s, drops),
            volume=1 + rng.normal(0, rig.volume_jitter, drops),
            aside_m=rng.normal(0, rig.off_axis_m, drops),
            wobble=rng.normal(0, 0.05, drops),
            phase=float(rng.uniform(0, 2 * np.pi)),
            bubbles=bool(rng.random() < rig.bubble_odds),
            shutter_s=float(rng.normal(0, rig.camera_jitter_s)),
            wild=tuple(np.exp(rng.normal(-0.2, 0.4, drops)).tolist()),
        )
