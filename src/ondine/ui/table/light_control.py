"""Test frames: read, rated, and what they have taught of the light; frames of the room, and series."""

from __future__ import annotations

from dataclasses import replace

from ondine.core.forecast.lit import times_lit
from ondine.core.light.anchor import RatedFrame, Settings, settings_of
from ondine.core.light.session import DarkFrame, LightSession
from ondine.core.timing.dials import DialError
from ondine.core.timing.limits import SequenceError
from ondine.logbook.trial_frame import TrialFrame
from ondine.studio.studio import Studio
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.table.editor import SetupEditor
from ondine.ui.table.signals import TableSignals


class LightControl:
    """Holds the light's session and the test frame in hand. `series`: frames so far, and of how many."""

    def __init__(self, studio: Studio, editor: SetupEditor, in_view: ShotInView, signals: TableSignals) -> None:
        self._studio, self._editor, self._in_view, self._signals = studio, editor, in_view, signals
        self.session = studio.kept.read("light", LightSession.from_json, LightSession())
        self.trial: TrialFrame | None = None
        self.series = (0, 0)

    # Test frames

    def read_last(self) -> None:
        """Read the picture of the shot in view as a test frame."""
        shot = self._in_view.shot
        if shot is None or shot.picture is None:
            self._signals.refused.emit(
                "There is no picture of the shot in view yet. Fire one, and wait for its picture."
            )
            return
        self._studio.light_table.read(shot.picture)

    def trial_read(self, frame: TrialFrame) -> None:
        """Take a test frame that was read."""
        self.trial = frame
        self._signals.refused.emit("")
        self._signals.altered.emit()

    def settings_of_trial(self) -> Settings:
        """How the test frame was set: aperture and ISO from its file, the rest from the set-up."""
        plan = self._studio.composer.plan
        settings = settings_of(plan.setup, self.session.clouding_stops, times_lit(plan.setup, plan.sequence))
        if self.trial is None:
            return settings
        return replace(settings, f_number=self.trial.f_number, iso=self.trial.iso or settings.iso)

    # What frames teach

    def rate_frame(self, what: str, frame: RatedFrame) -> None:
        """Take a rated frame down."""
        self._learn(self.session.with_frame(what, frame))

    def rate_room(self, dark: DarkFrame) -> None:
        """Take the frame of the room down."""
        self._learn(replace(self.session, dark=dark))

    def set_clouding(self, stops: float) -> None:
        """Say how many stops milk or dye gained since the anchor frame."""
        self._learn(replace(self.session, clouding_stops=stops))

    def forget_frames(self) -> None:
        """Begin again: the light or the liquid has changed."""
        self._learn(LightSession())

    def _learn(self, session: LightSession) -> None:
        self.session = session
        self._studio.log.keep("light", session.to_json())
        self._signals.refused.emit("")
        self._signals.altered.emit()

    # Firing for the light's sake

    def fire_dark(self) -> None:
        """Fire a frame without flash."""
        self._fire(dark=True)

    def fire_series(self, count: int, interval_s: float) -> None:
        """Fire a series; never faster than the flash recycles."""
        if not 2 <= count <= 200:
            self._signals.refused.emit(f"A series has 2 to 200 frames, not {count}.")
            return
        self._fire(count=count, interval_s=max(interval_s, 0.0))

    def _fire(self, dark: bool = False, count: int = 1, interval_s: float = 0.0) -> None:
        self._signals.refused.emit("")
        try:
            self._studio.bench.fire(self._studio.composer.plan, dark, count, interval_s)
        except (DialError, SequenceError) as error:
            self._signals.refused.emit(str(error))

    def series_goes_on(self, done: int, of: int) -> None:
        """Hear how far a series has come; zero of zero when it is over."""
        self.series = (done, of)
        self._signals.altered.emit()
