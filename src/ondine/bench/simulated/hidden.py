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
    """One rig of the simulated world. SI; exponents and factors are this world's own, not the predictor's.

    `outlet_m`, `push`, `cling` : diameter of the nozzle's outlet, momentum of its stream against an even one, pull of
    its wet rim against that of a sharp one; `merge_gap` : pause after which the next drop leaves for itself, in swings
    of the first one; `swing` : how far a drop swings as it lets go; `cavity_shuts` : width at which a cavity throws its
    jet, in drops; `crown_lasts` : as a share of the cavity's life; `sheet_spread`, `sheet_thins` : speed and thickness
    of a sheet as it is thrown, `tears_at` : where it tears, as a share of its widest; `bead_s` : how long a jet holds
    its bead; `column_width` : of what a sheet drives down; `leans` : how far jets lean, as a share of their height;
    `late_odds`, `double_odds`, `drip_odds` : of a valve that sticks, of one that bounces, of one that lets a drip fall.
    """

    valve_lag_s: float
    outlet_m: float
    push: float
    cling: float
    discharge_m3_s_sqrt_m: float
    head_m: float
    reservoir_area_m2: float
    dead_time_s: float
    height_offset_m: float
    merge_gap: float
    swing: float
    cavity_kick: float
    cavity_shuts: float
    crown_lasts: float
    jet_factor: float
    jet_exponent: float
    sheet_spread: float
    sheet_thins: float
    tears_at: float
    mixing: float
    bead_s: float
    column_width: float
    column_stands_s: float
    column_sinks_m_s: float
    timing_jitter_s: float
    volume_jitter: float
    off_axis_m: float
    leans: float
    bubble_odds: float
    camera_lag_s: float
    camera_jitter_s: float
    radio_lag_s: float
    room_lux: float
    flash_lag_s: float = 0.0
    jet_damping: float = 0.9
    cavity_loss: float = 0.0
    late_odds: float = 0.0
    double_odds: float = 0.0
    drip_odds: float = 0.0

    def of_valve(self, seed: int, valve: int) -> HiddenRig:
        """Return the same rig as it is at another of its valves, from 0: each valve has numbers of its own."""
        if valve == 0:
            return self
        other = HiddenRig.from_seed(seed + 7919 * valve)
        own = (
            "valve_lag_s", "outlet_m", "push", "cling", "discharge_m3_s_sqrt_m", "dead_time_s", "height_offset_m",
            "merge_gap",
        )  # fmt: skip
        return replace(self, **{name: getattr(other, name) for name in own})

    @staticmethod
    def from_seed(seed: int) -> HiddenRig:
        """Draw a rig; the same seed gives the same rig."""
        rng = np.random.default_rng([seed, 71])

        def about(middle: float, spread: float) -> float:
            return float(rng.normal(middle, spread))

        return HiddenRig(
            valve_lag_s=about(9e-3, 1.5e-3),
            outlet_m=about(2.35e-3, 0.08e-3),
            push=about(1.05, 0.03),
            cling=about(0.95, 0.04),
            discharge_m3_s_sqrt_m=about(7.6e-6, 0.3e-6),
            head_m=0.12,
            reservoir_area_m2=6.4e-3,
            dead_time_s=about(2.8e-3, 0.3e-3),
            height_offset_m=about(0, 1.5e-3),
            merge_gap=about(0.5, 0.05),
            swing=about(0.10, 0.02),
            cavity_kick=about(0.86, 0.04),
            cavity_shuts=0.45,
            crown_lasts=0.45,
            jet_factor=about(2.35, 0.12),
            jet_exponent=0.46,
            sheet_spread=about(1.0, 0.06),
            sheet_thins=about(1.0, 0.08),
            tears_at=about(0.6, 0.05),
            mixing=about(0.45, 0.08),
            bead_s=about(0.044, 0.004),
            column_width=about(1.0, 0.1),
            column_stands_s=about(0.05, 0.008),
            column_sinks_m_s=abs(about(0.10, 0.02)),
            timing_jitter_s=0.35e-3,
            volume_jitter=0.01,
            off_axis_m=0.35e-3,
            leans=0.02,
            bubble_odds=0.03,
            camera_lag_s=about(52e-3, 6e-3),
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

        return HiddenRig(
            valve_lag_s=within(1e-3, 21e-3),
            outlet_m=within(1.5e-3, 2.75e-3),
            push=within(0.95, 1.15),
            cling=within(0.8, 1.05),
            discharge_m3_s_sqrt_m=flow_m3_s / head_m**0.5,
            head_m=head_m,
            reservoir_area_m2=6.4e-3,
            dead_time_s=within(1.5e-3, 5e-3),
            height_offset_m=float(rng.normal(0, 5e-3)) * rooms.share,
            merge_gap=within(0.25, 0.75),
            swing=within(0.0, 0.2),
            cavity_kick=within(0.74, 1.1),
            cavity_shuts=within(0.2, 0.9),
            crown_lasts=within(0.28, 0.6),
            jet_factor=within(1.9, 3.4),
            jet_exponent=within(0.40, 0.56),
            sheet_spread=within(0.7, 1.45),
            sheet_thins=within(0.45, 1.8),
            tears_at=within(0.35, 0.9),
            mixing=within(0.15, 0.8),
            bead_s=within(0.022, 0.052),
            column_width=within(0.6, 1.5),
            column_stands_s=within(0.025, 0.085),
            column_sinks_m_s=within(0.03, 0.2),
            timing_jitter_s=rooms.jitter_s,
            volume_jitter=0.01,
            off_axis_m=0.35e-3,
            leans=within(0.0, 0.04),
            bubble_odds=0.03,
            camera_lag_s=52e-3,
            camera_jitter_s=1.2e-3,
            radio_lag_s=0.8e-3,
            room_lux=0.2,
            flash_lag_s=float(rng.uniform(0.0, rooms.latest_light_s)),
            jet_damping=within(0.3, 9.0),
            cavity_loss=within(0.0, 0.12),
            late_odds=0.02 * rooms.share,
            double_odds=0.01 * rooms.share,
            drip_odds=0.01 * rooms.share,
        )


@dataclass(frozen=True)
class Luck:
    """One shot's own deviations: arrays with one entry per drop, and a phase for the lumps.

    `lean` : how far the jet of each drop leans aside, as a share of its height; `doubles`, `drips` : drops whose valve
    bounces, or lets a drip fall before it opens.
    """

    timing_s: np.ndarray
    volume: np.ndarray
    aside_m: np.ndarray
    wobble: np.ndarray
    phase: float
    bubbles: bool
    shutter_s: float = 0.0
    wild: tuple[float, ...] = ()
    lean: tuple[float, ...] = ()
    doubles: frozenset[int] = frozenset()
    drips: frozenset[int] = frozenset()

    def wildness(self, drop: int) -> float:
        """How much faster than it should be the jet is that a drop throws out of an open crater."""
        return self.wild[drop] if drop < len(self.wild) else 1.0

    def leaning(self, drop: int) -> float:
        """How far the jet of a drop leans aside, as a share of its height."""
        return self.lean[drop] if drop < len(self.lean) else 0.0

    @staticmethod
    def of_shot(rig: HiddenRig, seed: int, shot: int, drops: int) -> Luck:
        """Draw the luck of shot number `shot` on the rig of `seed`."""
        rng = np.random.default_rng([seed, shot, 5])
        odd = np.random.default_rng([seed, shot, 6])
        late = (odd.random(drops) < rig.late_odds) * odd.uniform(4e-3, 15e-3, drops)
        return Luck(
            timing_s=rng.normal(0, rig.timing_jitter_s, drops) + late,
            volume=1 + rng.normal(0, rig.volume_jitter, drops),
            aside_m=rng.normal(0, rig.off_axis_m, drops),
            wobble=rng.normal(0, 0.05, drops),
            phase=float(rng.uniform(0, 2 * np.pi)),
            bubbles=bool(rng.random() < rig.bubble_odds),
            shutter_s=float(rng.normal(0, rig.camera_jitter_s)),
            wild=tuple(np.exp(rng.normal(-0.2, 0.4, drops)).tolist()),
            lean=tuple(odd.normal(0, rig.leans, drops).tolist()),
            doubles=frozenset(np.flatnonzero(odd.random(drops) < rig.double_odds).tolist()),
            drips=frozenset(np.flatnonzero(odd.random(drops) < rig.drip_odds).tolist()),
        )
