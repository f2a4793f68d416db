"""The shot in view: shown, walked through, tagged, rated, noted."""

from __future__ import annotations

from ondine.logbook.records import ShotRecord, ShotState
from ondine.studio.events import PictureArrived, ShotChanged, ShotLogged
from ondine.studio.log_events import ShotsChanged
from ondine.studio.studio import Studio
from ondine.ui.bench.page import BenchPage
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.announce import announce
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.shot_in_view import ShotInView


class ShotBrowser:
    """Joins strip, picture and tags with the logbook."""

    def __init__(self, studio: Studio, in_view: ShotInView, bench: BenchPage, bridge: Bridge) -> None:
        self._studio, self._in_view, self._bench = studio, in_view, bench
        self._strip = bench.strip
        bench.tagged.connect(self.tag)
        bench.noted.connect(self.write_note)
        bench.viewed.connect(in_view.show)
        bench.answered.connect(self.answer_picture)
        in_view.changed.connect(bench.show_shot)
        bridge.on(ShotLogged, self._logged)
        bridge.on(ShotChanged, lambda event: self._changed(event.shot))
        bridge.on(PictureArrived, self._arrived)
        bridge.on(ShotsChanged, self._many_changed)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {
            "older_shot": lambda: self._walk(1),
            "newer_shot": lambda: self._walk(-1),
            "rate": self.rate,
            "edit_note": self.edit_note,
            "answer_picture": self.answer_picture,
            "use_sequence": self.use_sequence,
            "toggle_bright": self.toggle_bright,
            "toggle_keeper": self.toggle_keeper,
            "next_untagged": self.next_untagged,
        }

    @property
    def newest(self) -> ShotRecord | None:
        """The newest shot."""
        shots = self._strip.shots.shots
        return shots[0] if shots else None

    def start(self, shots: list[ShotRecord]) -> None:
        """Fill the strip and look at the newest shot."""
        self._strip.shots.set_shots(shots)
        if shots:
            self._strip.show_shot(shots[0].id)
        self._in_view.show(self.newest)

    def show_chosen(self, shot: ShotRecord) -> None:
        """Look at a shot that was chosen in the log."""
        if self._strip.shots.row_of(shot.id) is None:
            self._strip.clearSelection()
        self._strip.show_shot(shot.id)
        self._in_view.show(shot)

    def _walk(self, by: int) -> None:
        model, shot = self._strip.shots, self._in_view.shot
        row = model.row_of(shot.id) if shot else None
        if row is not None and 0 <= row + by < len(model.shots):
            self._strip.setCurrentIndex(model.index(row + by))

    # What is said of it

    def tag(self, shape: str) -> None:
        """Tag the shot in view, or take the tag off."""
        if self._in_view.shot is not None:
            self._studio.log.toggle_tag(self._in_view.shot.id, shape)

    def rate(self, rating: int) -> None:
        """Rate the shot in view."""
        if self._in_view.shot is not None:
            self._studio.log.rate(self._in_view.shot.id, rating)

    def toggle_keeper(self) -> None:
        """Say that the shot in view is one to keep, or that it is not."""
        if self._in_view.shot is not None:
            self._studio.log.keep_shots([self._in_view.shot.id], not self._in_view.shot.keeper)

    def next_untagged(self) -> None:
        """Look at the next shot of the strip that nobody has tagged, from the one in view on towards older ones."""
        shots = self._strip.shots.shots
        row = self._strip.shots.row_of(self._in_view.shot.id) if self._in_view.shot else None
        after = list(range(0 if row is None else row + 1, len(shots)))
        for place in [*after, *range(row or 0)]:
            if not shots[place].outcome_known and shots[place].state is not ShotState.PLANNED:
                self._strip.setCurrentIndex(self._strip.shots.index(place))
                return

    def write_note(self, shot: ShotRecord, text: str) -> None:
        """Keep the note of a shot."""
        if text != shot.note:
            self._studio.log.annotate(shot.id, text)

    def answer_picture(self, belongs: int) -> None:
        """Say whether the picture in view is its shot's, where that is a question."""
        shot = self._in_view.shot
        if shot is not None and not shot.picture_sure:
            self._studio.log.answer_picture(shot.id, bool(belongs))

    def edit_note(self) -> None:
        """Go to the note; Return keeps it, Esc leaves it."""
        if self._bench.shot.note.isEnabled():
            self._bench.shot.note.setFocus()

    def use_sequence(self) -> None:
        """Take the sequence of the shot in view in hand."""
        if self._in_view.shot is not None:
            self._studio.composer.use_sequence(self._in_view.shot.sequence)

    def toggle_bright(self) -> None:
        """Show the picture as it is, even in the dark room."""
        self._bench.shot.picture.bright = not self._bench.shot.picture.bright
        self._bench.splash.show_bright(self._bench.shot.picture.bright)
        self._bench.shot.picture.update()

    # Events

    def _logged(self, event: ShotLogged) -> None:
        announce(self._strip, f"Shot {event.shot.id} fired")
        self._strip.shots.add(event.shot)
        self._strip.show_shot(event.shot.id)
        self._in_view.show(event.shot)

    def _arrived(self, event: PictureArrived) -> None:
        self._changed(event.shot)
        announce(self._bench.shot.picture, f"Picture of shot {event.shot.id} arrived")

    def _many_changed(self, event: ShotsChanged) -> None:
        for shot in event.shots.values():
            self._changed(shot)

    def _changed(self, shot: ShotRecord) -> None:
        self._strip.shots.change(shot)
        if self._in_view.shot is not None and self._in_view.shot.id == shot.id:
            self._in_view.show(shot)
