"""What the log says of a picture, in an XMP sidecar beside it, for photo managers and raw developers.

Shape and timing stand as keywords, flat and in a hierarchy of their own; rating and description where other programs
look for them, unless one of those said something else there. What Ondine wrote it knows again, and it changes with the
log.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path

from ondine.core.numbers import counted
from ondine.core.timing.notation import write as notation
from ondine.logbook.records import ShotRecord
from ondine.logbook.sidecar import Sidecar, SidecarError
from ondine.logbook.store import Logbook
from ondine.logbook.writing import Kind, WriteError, write_whole

XMP = Kind("XMP sidecar", (".xmp",))
ROOT = "Ondine"
KINDS = ("shape", "timing", "sitting", "label", "keeper", "simulated")
"""What keywords are of, under the root."""


ENDINGS = (".xmp", ".XMP", ".Xmp")
"""Some cameras and programs write capitals."""


class Naming(StrEnum):
    """How sidecars are called: programs disagree, some look for IMG_1.xmp, others for IMG_1.dng.xmp."""

    STEM = "stem"
    FULL = "full"


@dataclass(frozen=True)
class Saying:
    """What is said of a picture: keywords as paths from the root, rating 0 to 5, description; `marks` are our own
    properties.
    """

    keywords: tuple[tuple[str, ...], ...]
    rating: int
    description: str
    marks: Mapping[str, str]


def saying_of(shot: ShotRecord, names: Mapping[str, str]) -> Saying:
    """Return what the log says of a shot. `names`: of the shapes, by their keys."""
    sequence = shot.sequence
    timing = [f"interval {us / 1000:g} ms" for us in sequence.intervals_us]
    timing += [f"open {' + '.join(f'{pulse.open_us / 1000:g}' for pulse in sequence.drops)} ms"]
    timing += [f"flash {flash.at_us / 1000:g} ms" for flash in sequence.flashes]
    keywords: list[tuple[str, ...]] = [("shape", names.get(key, key)) for key in shot.shapes]
    keywords += [("timing", words) for words in timing]
    keywords += [("sitting", shot.sitting)]
    keywords += [("label", word) for word in shot.labels]
    keywords += [("keeper",)] if shot.keeper else []
    # Wherever a picture goes, it says that no water fell.
    keywords += [("simulated",)] if shot.is_simulated else []
    line = notation(sequence)
    marks = {"ondine:Shot": str(shot.id), "ondine:Timing": line, "ondine:FiredAt": shot.at.isoformat()}
    description = "\n".join(filter(None, (shot.note, f"Shot {shot.id}. {line}")))
    plain = tuple(dict.fromkeys(tuple(_plain(part) for part in path) for path in keywords))
    return Saying(plain, shot.rating, _plain(description), marks)


def _plain(text: str) -> str:
    """Return a text that XML and hierarchies can hold: no control characters, no bar, which parts levels."""
    whole = text.encode("utf-8", "replace").decode("utf-8").replace("|", "/")
    return "".join(sign for sign in whole if sign == "\n" or sign.isprintable()).strip()


def say(sidecar: Sidecar, saying: Saying) -> list[str]:
    """Put what is said into a sidecar; return what another program said there already, which stays."""
    kept = []
    flat = [path[-1] for path in saying.keywords]
    deep = ["|".join((ROOT, *path[:n])) for path in saying.keywords for n in range(1, len(path) + 1)]
    wrote, had = set(sidecar.items("ondine:WroteKeywords")), set(sidecar.items("dc:subject"))
    sidecar.change_items("dc:subject", wrote - set(flat), flat)
    there = sidecar.items("lr:hierarchicalSubject")
    ours = set(sidecar.items("ondine:WroteHierarchy"))
    if not ours:
        # Until it was written down, ours were those of our own kinds.
        ours = {item for item in there if item == ROOT or item.startswith(tuple(f"{ROOT}|{kind}" for kind in KINDS))}
    sidecar.change_items("lr:hierarchicalSubject", ours - set(deep), list(dict.fromkeys(deep)))
    sidecar.change_items(
        "ondine:WroteHierarchy", ours - set(deep), [word for word in deep if word not in there or word in ours]
    )
    # A word that somebody else had there already is not ours to take out again.
    sidecar.change_items(
        "ondine:WroteKeywords", wrote - set(flat), [word for word in flat if word not in had or word in wrote]
    )
    theirs = sidecar.text("xmp:Rating")
    if theirs in (None, "", "0", sidecar.text("ondine:WroteRating")):
        if saying.rating or theirs not in (None, "", "0"):
            sidecar.set_text("xmp:Rating", str(saying.rating))
            sidecar.set_text("ondine:WroteRating", str(saying.rating))
    elif theirs != str(saying.rating):
        kept.append(f"its rating {theirs} stays; the log has {saying.rating}")
    said = sidecar.default_text("dc:description")
    if not (said or "").strip() or said == sidecar.text("ondine:WroteDescription"):
        sidecar.set_default_text("dc:description", saying.description)
        sidecar.set_text("ondine:WroteDescription", saying.description)
    elif said != saying.description:
        kept.append("its description stays")
    for name, value in saying.marks.items():
        sidecar.set_text(name, value)
    return kept


@dataclass
class Written:
    """What came of writing sidecars: how many were written, how many said it all already, what was left and why."""

    written: list[Path] = field(default_factory=list)
    unchanged: int = 0
    without_picture: int = 0
    kept: list[str] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)

    @property
    def words(self) -> str:
        """All of it in a sentence."""
        parts = [f"{counted(len(self.written), 'sidecar')} written"]
        if self.unchanged:
            parts.append(f"{self.unchanged} said it all already")
        if self.without_picture:
            parts.append(f"{counted(self.without_picture, 'shot')} without a picture")
        if self.refused:
            parts.append(f"{len(self.refused)} could not be written")
        return ", ".join(parts) + "."


def sidecar_of(picture: Path, naming: Naming, to: Path | None = None) -> Path:
    """Return where a picture's sidecar lies: one that is there already by either name, else by `naming`.

    to : a folder for all of them, instead of each picture's own.
    """
    folder = picture.parent if to is None else to
    names = {Naming.STEM: picture.stem, Naming.FULL: picture.name}
    both = [names[naming], *(name for name in names.values() if name != names[naming])]
    there = (place for name in both for ending in ENDINGS if (place := folder / f"{name}{ending}").exists())
    return next(there, folder / f"{both[0]}{ENDINGS[0]}")


def write_sidecars(
    logbook: Logbook,
    shot_ids: Sequence[int],
    naming: Naming = Naming.STEM,
    to: Path | None = None,
    progress: Callable[[int, int], None] = lambda done, of: None,
    is_cancelled: Callable[[], bool] = lambda: False,
) -> Written:
    """Write a sidecar beside each picture of some shots, or extend the one that is there.

    Each is whole or as it was, also if the plug is pulled; what cannot be written is named, and the rest goes on.
    """
    done = Written()
    names = {shape.key: shape.name for shape in logbook.shapes.all()}
    owners: dict[Path, Path] = {}
    for number, shot in enumerate(logbook.shots.each(shot_ids), start=1):
        if is_cancelled():
            break
        files = logbook.pictures.files_of(shot.id)
        done.without_picture += not files
        saying = saying_of(shot, names)
        for picture in files:
            try:
                place = sidecar_of(picture, naming, to)
                owner = owners.setdefault(place, picture)
                if owner.parent != picture.parent or owner.stem != picture.stem:
                    raise SidecarError(
                        f"{picture} has no sidecar: {place} is that of {owner}, which has the same name."
                    )
                _write_one(place, picture, saying, done)
            except (SidecarError, WriteError) as error:
                done.refused.append(str(error))
            except OSError as error:
                done.refused.append(f"{picture} got no sidecar ({error.strerror}). What was there is as it was.")
        progress(number, len(shot_ids))
    return done


def _write_one(place: Path, picture: Path, saying: Saying, done: Written) -> None:
    """Write or extend one sidecar. Raises SidecarError, WriteError, OSError; then it is as it was."""
    if not picture.exists():
        raise SidecarError(f"{picture} is not where it was, and got no sidecar. Put it back first.")
    if place.is_symlink():
        # What it leads to may lie anywhere.
        raise SidecarError(f"{place} is a link to another place, and was left as it is.")
    sidecar = Sidecar.read(place) if place.exists() else Sidecar.new()
    done.kept += [f"{place}: {words}." for words in say(sidecar, saying)]
    if not sidecar.is_changed:
        done.unchanged += 1
        return
    content = sidecar.to_bytes()
    write_whole(place, lambda file: file.write(content), XMP)
    if place not in done.written:
        done.written.append(place)
