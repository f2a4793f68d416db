"""Makes Ondine a citizen of one user's desktop: menu entry, icons, file types, man page, shell completion; and back."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

APP_ID = "app.ondine.Ondine"

PLACES: Mapping[str, str] = {
    f"{APP_ID}.desktop": "applications",
    f"{APP_ID}.metainfo.xml": "metainfo",
    f"{APP_ID}.xml": "mime/packages",
    f"{APP_ID}.svg": "icons/hicolor/scalable/apps",
    f"{APP_ID}.png": "icons/hicolor/256x256/apps",
    "ondine.1": "man/man1",
    "ondine.bash": "bash-completion/completions",
    "_ondine": "zsh/site-functions",
    "ondine.fish": "fish/vendor_completions.d",
}
"""Each file that ships with Ondine, and where it goes under the data folder (XDG and the shells' own conventions)."""

RENAMED = {"ondine.bash": "ondine"}

REFRESHED = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)
"""Programs that let running desktops see what changed, where they are installed; without them it shows at log-in."""


class DesktopError(Exception):
    """Something could not be put in place or taken away; the text says what, why, and what to do."""


@dataclass(frozen=True)
class Desktop:
    """The desktop files of one user. `data`: XDG_DATA_HOME; `command`: the program that the menu starts."""

    data: Path
    command: Path

    @classmethod
    def of_user(cls) -> Desktop:
        """Return the present user's desktop, and the program that is running."""
        named = os.environ.get("XDG_DATA_HOME", "")
        # A path that is not absolute is to be ignored, says the specification.
        data = Path(named) if named.startswith("/") else Path.home() / ".local" / "share"
        return cls(data, command_running())

    def targets(self) -> dict[str, Path]:
        """Return where each file goes."""
        return {name: self.data / folder / RENAMED.get(name, name) for name, folder in PLACES.items()}

    def install(self) -> list[Path]:
        """Put all in place, over what an older Ondine put there; return where. Raises DesktopError."""
        source = files("ondine") / "assets" / "desktop"
        for name, target in self.targets().items():
            content = (source / name).read_bytes()
            if name.endswith(".desktop"):
                content = _with_command(content.decode("utf-8"), self.command).encode("utf-8")
            try:
                target.parent.mkdir(parents=True, exist_ok=True)
                target.write_bytes(content)
            except OSError as error:
                raise DesktopError(
                    f"{target} cannot be written ({error.strerror}). Give yourself write permission there, then try "
                    "again; ondine --remove-desktop takes away what was put in place so far."
                ) from error
        self._refresh()
        return list(self.targets().values())

    def remove(self) -> list[Path]:
        """Take all away that is there; return what was. Raises DesktopError."""
        gone = []
        for target in self.targets().values():
            try:
                target.unlink()
                gone.append(target)
            except FileNotFoundError:
                continue
            except OSError as error:
                raise DesktopError(
                    f"{target} cannot be taken away ({error.strerror}). Give yourself write permission there, then try "
                    "again."
                ) from error
            self._remove_empty(target.parent)
        self._refresh()
        return gone

    def _remove_empty(self, folder: Path) -> None:
        while folder != self.data and self.data in folder.parents:
            with suppress(OSError):
                folder.rmdir()
            if folder.exists():
                return
            folder = folder.parent

    def _refresh(self) -> None:
        for program, folder in REFRESHED:
            found = shutil.which(program)
            if found and (self.data / folder).is_dir():
                # Icons of a folder without an index are found all the same.
                subprocess.run([found, str(self.data / folder)], check=False, capture_output=True, timeout=60)


def command_running() -> Path:
    """Return the program that this process was started as: beside its Python, where a menu finds it."""
    beside = Path(sys.executable).with_name("ondine")
    return beside if beside.exists() else Path(shutil.which("ondine") or "ondine")


def _with_command(entry: str, command: Path) -> str:
    quoted = _quoted(str(command))
    lines = []
    for line in entry.splitlines():
        if line.startswith("Exec=ondine"):
            line = f"Exec={quoted}{line.removeprefix('Exec=ondine')}"
        elif line.startswith("TryExec="):
            line = f"TryExec={command}"
        lines.append(line)
    return "\n".join(lines) + "\n"


def _quoted(command: str) -> str:
    """Quote a program's path as the Desktop Entry Specification asks (The Exec key)."""
    if not set(command) & set(" \t\n\"'\\><~|&;$*?#()`%"):
        return command
    inner = "".join(f"\\{sign}" if sign in '"`$\\' else sign for sign in command).replace("%", "%%")
    # The value is a string first, in which a backslash is written twice.
    return '"' + inner.replace("\\", "\\\\") + '"'
