"""What part of all times and heights the flight chart shows, where it lies, and the way back to the part before."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PySide6.QtCore import QObject, QPointF, QRectF, Signal

from ondine.core.constants import US_PER_S
from ondine.core.timing.sequence import MAX_TIME_US
from ondine.ui.kit.scales import HeightScale, TimeScale, height_of, stretched

SHORTEST_S, LONGEST_S = 0.004, MAX_TIME_US / US_PER_S + 1.0
LEAST_SHARE = 0.05
"""The least height of the window, as it is drawn."""

BACK_MOST = 50


@dataclass(frozen=True)
class Window:
    """Times from `start_s` to `end_s`, heights from `base_m` over the water to `top_m`."""

    start_s: float
    end_s: float
    base_m: float
    top_m: float

    def zoomed_in_time(self, factor: float, at_s: float) -> Window:
        """Return a window `factor` times as long in which one time keeps its place."""
        span = self.end_s - self.start_s
        wanted = min(max(span * factor, SHORTEST_S), LONGEST_S)
        start = at_s - (at_s - self.start_s) * wanted / span
        return replace(self, start_s=start, end_s=start + wanted).held()

    def moved_in_time(self, share: float) -> Window:
        """Return a window that lies later by a share of its length."""
        shift = share * (self.end_s - self.start_s)
        return replace(self, start_s=self.start_s + shift, end_s=self.end_s + shift).held()

    def held(self) -> Window:
        """Return the window moved to where times are."""
        span = min(self.end_s - self.start_s, LONGEST_S)
        start = min(max(self.start_s, 0.0), LONGEST_S - span)
        return replace(self, start_s=start, end_s=start + span)

    def zoomed_in_height(self, factor: float, nozzle_m: float) -> Window:
        """Return a window `factor` times as high over the same lowest height."""
        base, most = stretched(self.base_m), stretched(nozzle_m)
        wanted = max((stretched(self.top_m) - base) * factor, LEAST_SHARE)
        return replace(self, top_m=height_of(min(base + wanted, most)))

    def moved_in_height(self, share: float, nozzle_m: float) -> Window:
        """Return a window that lies higher by a share of its height, held between water and nozzle."""
        base, top, most = stretched(self.base_m), stretched(self.top_m), stretched(nozzle_m)
        shift = min(max(share * (top - base), -base), most - top)
        lowest = height_of(base + shift) if base + shift > 1e-9 else 0.0
        return replace(self, base_m=lowest, top_m=height_of(top + shift))


class Windows:
    """The window that hands have chosen, if any, and those before it."""

    def __init__(self) -> None:
        self.chosen: Window | None = None
        self._before: list[Window | None] = []
        self._running = ""

    def choose(self, window: Window | None, gesture: str = "") -> bool:
        """Show another part, None for all; return whether that changes anything. A gesture is one step back."""
        if window == self.chosen:
            return False
        if not gesture or gesture != self._running:
            self._before.append(self.chosen)
            del self._before[:-BACK_MOST]
        self._running = gesture
        self.chosen = window
        return True

    def rest(self) -> None:
        """Let the next choice be a step of its own."""
        self._running = ""

    def back(self) -> bool:
        """Show what was shown before; return whether there was anything."""
        if not self._before:
            return False
        self.chosen, self._running = self._before.pop(), ""
        return True


class Sight(QObject):
    """The window that the chart shows now, and its scales. Emits `changed()` when a hand shows another part.

    Nothing can be asked of it before the first `fit`.
    """

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.time = TimeScale(0.0, 1.0, 0.0, 1.0)
        self.height = HeightScale(1.0, 0.0, 1.0)
        self._windows = Windows()
        self._whole = Window(0.0, 1.0, 0.0, 1.0)

    @property
    def is_whole(self) -> bool:
        """Whether all of the flight is shown."""
        return self._windows.chosen is None

    @property
    def _now(self) -> Window:
        return self._windows.chosen or self._whole

    def fit(self, whole: Window, air: QRectF) -> None:
        """Lay the scales over the air of the chart; `whole` is shown where no hand has chosen a part of it."""
        self._whole = whole
        now = self._now
        self.time = TimeScale(now.start_s, now.end_s, air.left(), air.right())
        self.height = HeightScale(air.bottom(), air.top(), now.top_m, now.base_m)

    def zoom(self, time_factor: float, height_factor: float, x: float | None, gesture: str) -> None:
        """Show a part `factor` times as long and as high; the time at a place, or the middle, keeps its place."""
        at_s = (self._now.start_s + self._now.end_s) / 2 if x is None else self.time.time_s(x)
        made = self._now.zoomed_in_time(time_factor, at_s) if time_factor != 1.0 else self._now
        if height_factor != 1.0:
            made = made.zoomed_in_height(height_factor, self._whole.top_m)
        self._choose(made, gesture)

    def move(self, time_share: float, height_share: float, gesture: str) -> None:
        """Show what lies later and higher, by shares of what is shown."""
        made = self._now.moved_in_time(time_share) if time_share else self._now
        self._choose(made.moved_in_height(height_share, self._whole.top_m) if height_share else made, gesture)

    def pan(self, by: QPointF) -> None:
        """Let the chart follow a hand that draws it along."""
        wide, tall = self.time.right - self.time.left, self.height.base_y - self.height.top_y
        self.move(-by.x() / wide, by.y() / tall, "pan")

    def rest(self) -> None:
        """A hand has let the chart go."""
        self._windows.rest()

    def back(self) -> bool:
        """Show what was shown before; return whether there was anything."""
        return self._told(self._windows.back())

    def show_whole(self) -> bool:
        """Show the whole flight; return whether a part was shown before."""
        return self._told(self._windows.choose(None))

    def us_at(self, x: float) -> int:
        """The time at a place [µs]."""
        return round(self.time.time_s(x) * US_PER_S)

    def _choose(self, made: Window, gesture: str) -> None:
        if made == self._whole.held() or made == self._whole:
            self._told(self._windows.choose(None, gesture))
        else:
            self._told(self._windows.choose(made, gesture))

    def _told(self, changes: bool) -> bool:
        if changes:
            self.changed.emit()
        return changes
