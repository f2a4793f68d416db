"""Joins the practice place with the bench: rigs are put on it, shots and tags are counted, pictures are named."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QStackedWidget

from ondine.studio.events import InstantReady, PracticeChanged, RigMeasured, ShotChanged, Showed
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import DAY, Theme
from ondine.ui.shell.bench_actions import BenchActions
from ondine.ui.shell.coach_actions import CoachActions
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.navigation import Navigation
from ondine.ui.table.editor import SetupEditor

if TYPE_CHECKING:
    # Nobody practises in the first frame.
    from ondine.bench.simulated.levels import Level
    from ondine.studio.practice.book import Round
    from ondine.studio.practice.table import PracticeTable
    from ondine.ui.practice.page import PracticePage

ELSEWHERE = "Hidden rigs stand on the simulated bench: press F10 and open the practice logbook."
BUSY = "The bench is busy. Wait until it is ready, then put the rig on it."


class PracticeActions:
    """Opens the practice place, and does what is asked for there."""

    def __init__(
        self,
        studio: Studio,
        loader: PictureLoader,
        pages: QStackedWidget,
        navigation: Navigation,
        hands: BenchActions,
        coach: CoachActions,
        editor: SetupEditor,
        messages: Messages,
        bridge: Bridge,
    ) -> None:
        self._studio, self._loader, self._pages, self._navigation = studio, loader, pages, navigation
        self._hands, self._coach, self._editor, self._messages = hands, coach, editor, messages
        self._page: PracticePage | None = None
        self._theme: Theme = DAY
        bridge.on(
            ShotChanged, lambda event: self._with_table(lambda table: table.tagged(event.shot.id, event.shot.shapes))
        )
        bridge.on(Showed, lambda event: self._with_table(lambda table: table.showed(event)))
        bridge.on(RigMeasured, lambda event: self._with_table(lambda table: table.take(event)))
        bridge.on(PracticeChanged, lambda _: self._changed())
        bridge.on(InstantReady, lambda event: self.page.round.take(event))
        navigation.step_back = self.stop_round
        pages.currentChanged.connect(lambda _: self._page_turned())

    def _with_table(self, tell: Callable[[PracticeTable], None]) -> None:
        if self._studio.practice is not None:
            tell(self._studio.practice)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"toggle_practice": self.toggle}

    @property
    def page(self) -> PracticePage:
        """The page; made when it is first asked for."""
        if self._page is None:
            from ondine.studio.practice.table import GOALS
            from ondine.ui.practice.page import PracticePage

            self._page = page = PracticePage(self._loader, GOALS)
            page.set_theme(self._theme)
            page.rig.begun.connect(self.begin)
            page.rig.given_up.connect(lambda: self._with_table(lambda table: table.give_up()))
            page.rig.left.connect(self._leave)
            page.rig.to_bench.connect(self._navigation.go_back)
            page.naming.begun.connect(self.begin_round)
            page.water_moved.connect(self._navigation.follow_water)
            page.round.ended.connect(self._round_ended)
            page.round.stopped.connect(self.stop_round)
            self._pages.addWidget(page)
        return self._page

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme to the page."""
        self._theme = theme
        if self._page is not None:
            self._page.set_theme(theme)

    def toggle(self) -> None:
        """Go to the practice place, or back to the bench."""
        if self._studio.practice is None:
            self._messages.trouble(ELSEWHERE)
        elif self._page is not None and self._pages.currentWidget() is self._page:
            self._navigation.go_back()
        else:
            self._show()
            self._messages.dismiss()
            self._navigation.turn_to(self.page)
            self.page.rig.first.setFocus()

    # A hidden rig

    def begin(self, level: Level, goal: str, hints: bool) -> None:
        """Put the next hidden rig on the bench and go there."""
        practice = self._studio.practice
        assert practice is not None
        if not practice.begin(level, goal, hints):
            self._messages.trouble(BUSY)
            return
        self._coach.speak(hints, goal)
        self._changed()
        self._navigation.go_back()

    def _leave(self) -> None:
        if self._studio.practice is not None and not self._studio.practice.leave():
            self._messages.trouble(BUSY)

    def _changed(self) -> None:
        self._hands.show_state()
        if self._page is not None:
            self._show()

    def _show(self) -> None:
        from ondine.studio.practice.truth import event_words, truths

        practice = self._studio.practice
        assert practice is not None
        book, run, rig = practice.book, practice.book.run, practice.rig
        if run is None or rig is None or not run.over:
            self.page.show_book(book, (), "", None)
        else:
            events = event_words(rig, book.shown[-1].sequence) if book.shown else ""
            path = None
            if practice.measured is not None:
                path = tuple((one.sequence, one.shape) for one in practice.measured.path)
            told = truths(rig, self._editor.units)
            self.page.show_book(book, told, events, path)

    # Pictures to name

    def begin_round(self) -> None:
        """Begin a round of pictures to name."""
        practice = self._studio.practice
        assert practice is not None
        from ondine.studio.practice.gallery import PICTURES

        self._studio.gallery.begin(len(practice.book.rounds) + 1)
        self.page.show_round(True)
        self.page.round.begin(PICTURES)

    def stop_round(self) -> bool:
        """End a round that is in view; return whether there was one."""
        if self._page is None or not self._page.is_naming:
            return False
        self._page.show_round(False)
        self._studio.gallery.close()
        self._page.naming.begin.setFocus()
        return True

    def _page_turned(self) -> None:
        """A round that nobody sees any more does not go on."""
        if self._page is not None and self._pages.currentWidget() is not self._page:
            self.stop_round()

    def _round_ended(self, one: Round) -> None:
        self.stop_round()
        assert self._studio.practice is not None
        self._studio.practice.add_round(one)
