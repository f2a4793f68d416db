"""Every key and what it does: the window binds them from this table, the page of keys shows it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

from ondine.core.timing.limits import MAX_DROPS
from ondine.ui.kit.actions import Actions


@dataclass(frozen=True)
class Key:
    """A key sequence in Qt's words, the action it calls, how the page of keys names it, what it does.

    `argument` is handed to the action where one action answers several keys.
    """

    keys: str
    action: str
    shown: str
    does: str
    argument: int | None = None


KEYS = (
    Key("", "fire", "Space", "Fire, or log a shot fired by hand; on a button that has the focus, press it"),
    Key("", "tag", "letters", "Tag the shot in view, as on the board"),
    Key("0", "select_flash", "0", "Select the flash, or the next one"),
    Key("1", "select", "1 … 8", "Select a drop", 0),
    *(Key(str(number), "select", "", "", number - 1) for number in range(2, MAX_DROPS + 1)),
    Key("9", "select_camera", "9", "Select the shutter, or the next command to the camera"),
    Key("Alt+0", "select_flash_too", "Alt 0 … 8", "Select a flash, or a drop, together with others"),
    *(Key(f"Alt+{number}", "select_too", "", "", number - 1) for number in range(1, MAX_DROPS + 1)),
    Key("Ctrl+A", "select_all", "Ctrl A", "Select all drops and flashes"),
    Key("", "nudge", "← →", "Move it by the step; with Shift by 5 ms"),
    Key("", "to_event", "Ctrl ← →", "Move it to the event before or after"),
    Key("", "resize", "↑ ↓", "Lengthen or shorten the drop's opening"),
    Key(".", "toggle_step", ".", "Step 1 ms or 0.1 ms"),
    Key("Ctrl+G", "change_snap", "Ctrl G", "Snap to nothing, to round times, or to events"),
    Key("Ctrl+L", "lock", "Ctrl L", "Lock it: drop to the gap, flash to meeting or touchdown, shutter to the flash"),
    Key("Ctrl+T", "toggle_times", "Ctrl T", "All times as a table"),
    Key("Ctrl+K", "count_drops", "Ctrl K", "Count drops from the trigger, start to start, or as gaps"),
    Key("Ctrl+Shift+K", "count_light", "Ctrl Shift K", "Count flashes from something else"),
    Key("", "move_window", "Alt ← → ↑ ↓", "Look earlier, later, higher, lower; with Shift closer or wider"),
    Key("", "window_back", "Backspace, Home", "Look at what was shown before, or at the whole flight"),
    Key("Ctrl+P", "toggle_coach", "Ctrl P", "The coach: what to fire next, learned from what is tagged"),
    Key(
        "Ctrl+Shift+A",
        "toggle_auto",
        "Ctrl Shift A",
        "The coach fires each proposal once the last picture is tagged; Esc stops",
    ),
    Key("Ctrl+Shift+M", "show_map", "Ctrl Shift M", "The coach's map: how likely it is over two timings"),
    Key("Ctrl+Shift+P", "show_learned", "Ctrl Shift P", "What the coach has learned of the rig, and why"),
    Key("", "take_proposal", "Return", "Use the coach's proposal; with Shift, fire it"),
    Key("F4", "toggle_close_up", "F4", "Whole flight, or from touchdown on"),
    Key("Ins", "add_drop", "Ins", "Add a drop"),
    Key("Shift+Ins", "add_flash", "Shift Ins", "Add a flash"),
    Key("Del", "remove", "Del", "Remove what is selected"),
    Key("Ctrl+Z", "undo", "Ctrl Z", "Undo"),
    Key("Ctrl+Shift+Z", "redo", "Ctrl Shift Z", "Redo"),
    Key("Ctrl+Y", "redo", "", ""),
    Key("Ctrl+M", "mend", "Ctrl M", "Change to the nearest sequence that can be fired"),
    Key("Ctrl+D", "duplicate", "Ctrl D", "Put a copy of what is selected after it"),
    Key("Ctrl+C", "copy_line", "Ctrl C", "Copy the sequence as one line; of several selected parts, these alone"),
    Key("Ctrl+Shift+C", "copy_line_of_shot", "Ctrl Shift C", "Copy the sequence of the shot in view"),
    Key("Ctrl+V", "paste_line", "Ctrl V", "Paste a sequence, or parts of one, that was copied or written as one line"),
    Key("[", "older_shot", "[", "Look at the shot before"),
    Key("]", "newer_shot", "]", "Look at the shot after"),
    Key("=", "use_sequence", "=", "Use this shot's timings"),
    Key("Ctrl+1", "rate", "Ctrl 0 … 5", "Rate the shot in view", 1),
    Key("Ctrl+0", "rate", "", "", 0),
    Key("Ctrl+2", "rate", "", "", 2),
    Key("Ctrl+3", "rate", "", "", 3),
    Key("Ctrl+4", "rate", "", "", 4),
    Key("Ctrl+5", "rate", "", "", 5),
    Key("Ctrl+B", "toggle_keeper", "Ctrl B", "Keep the shot in view, or the selected ones; or do not"),
    Key("Ctrl+Shift+T", "own_shapes", "Ctrl Shift T", "Shapes of your own; Shift and a letter tag with them"),
    Key("Ctrl+U", "next_untagged", "Ctrl U", "Go to the next shot that is not tagged"),
    Key("F8", "edit_note", "F8", "Write a note on the shot in view"),
    Key("Alt+Y", "answer_picture", "Alt Y, Alt N", "The picture in question is this shot's, or it is not", 1),
    Key("Alt+N", "answer_picture", "", "", 0),
    Key("F1", "toggle_keys", "F1", "These keys"),
    Key("F2", "toggle_table", "F2", "The table, stage by stage"),
    Key("Ctrl+PgDown", "walk_stages", "Ctrl PgUp PgDn", "Stage before or after", 1),
    Key("Ctrl+PgUp", "walk_stages", "", "", -1),
    Key("", "walk", ", ;", "On the drawing: next or previous ring; arrows move it"),
    Key("F3", "toggle_log", "F3", "The log"),
    Key("F5", "toggle_theme", "F5", "Day or dark room"),
    Key("F6", "toggle_blank", "F6", "Blank the window; any key brings it back"),
    Key("F9", "toggle_card", "F9", "The dial card, large"),
    Key("F7", "toggle_bright", "F7", "Show the picture bright in the dark room"),
    Key("F12", "change_splash", "F12", "The splash as a picture with outlines, as a picture alone, or drawn"),
    Key("F10", "choose_bench", "F10", "What opens the valve, and which logbook this is"),
    Key("Ctrl+E", "toggle_practice", "Ctrl E", "Practise: a hidden rig to search on, pictures to name"),
    Key("F11", "toggle_full_screen", "F11", "Full screen, or a window"),
    Key("Ctrl+F", "search_log", "Ctrl F", "Search the log"),
    Key("Ctrl+H", "toggle_sheet", "Ctrl H", "In the log: contact sheet, table or atlas"),
    Key("Ctrl+Shift+H", "groups", "Ctrl Shift H", "In the log: shots by equal timing, with their hits"),
    Key("Ctrl+J", "edit_label", "Ctrl J", "In the log: add a label to the selected shots"),
    Key("Ctrl+Shift+F", "like_this", "Ctrl Shift F", "In the log: the shots first that are most like this one"),
    Key("Ctrl+R", "compare", "Ctrl R", "In the log: the selected shots side by side; Del strikes one out"),
    Key("Ctrl+Shift+R", "film", "Ctrl Shift R", "In the log: the instants of one splash as a film"),
    Key("Ctrl+Shift+G", "sitting_course", "Ctrl Shift G", "How the sitting of this shot went, and its report"),
    Key("Ctrl+Shift+E", "exchange", "Ctrl Shift E", "Write out what was found in the log, take in what others have"),
    Key("Ctrl+N", "begin_sitting", "Ctrl N", "Begin a new sitting"),
    Key("Ctrl+O", "open_file", "Ctrl O", "Open a logbook, a recipe or a set-up"),
    Key("Ctrl+S", "write_recipe", "Ctrl S", "Write what is in hand as a recipe"),
    Key(
        "Ctrl+Shift+S",
        "back_up",
        "Ctrl Shift S",
        "Keep a verified copy of the logbook now; one a day is kept by itself",
    ),
    Key("Ctrl+I", "choose_folder", "Ctrl I", "Choose the folder that pictures arrive in"),
    Key("Ctrl+Shift+I", "import_card", "Ctrl Shift I", "Match a camera's card to the shots, and take its pictures in"),
    Key(
        "Ctrl+Shift+L",
        "clock_card",
        "Ctrl Shift L",
        "The clock card: photograph it once if the camera's clock is wrong",
    ),
    Key("Ctrl+W", "close", "Ctrl W, Ctrl Q", "Close the window"),
    Key("Ctrl+Q", "close", "", ""),
    Key("Esc", "go_back", "Esc", "Back to the chart"),
)


def bind_keys(window: QWidget, parts: Iterable[Actions], here: Callable[[], Actions] = dict) -> None:
    """Make every key of the table call the part that registered its action.

    here : asked at each press: what a key means on the page in view, where that is something else.
    Raises ValueError if two parts register one action, or nobody registers what a key asks for.
    """
    known: Actions = {}
    for actions in parts:
        twice = known.keys() & actions.keys()
        if twice:
            raise ValueError(f"registered twice: {', '.join(sorted(twice))}")
        known |= actions
    missing = {key.action for key in KEYS if key.keys} - known.keys()
    if missing:
        raise ValueError(f"nobody handles {', '.join(sorted(missing))}")
    for key in KEYS:
        if key.keys:
            shortcut = QShortcut(QKeySequence(key.keys), window)
            shortcut.activated.connect(partial(_call, key, known[key.action], here))


def _call(key: Key, usual: Callable[..., object], here: Callable[[], Actions]) -> None:
    action: Callable[..., object] = here().get(key.action, usual)
    if key.argument is None:
        action()
    else:
        action(key.argument)
