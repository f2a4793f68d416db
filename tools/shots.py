"""Draws docs/screenshots anew from the demo: the views in both themes, and a contact sheet of shapes."""

import json
import os
import sqlite3
import subprocess
import sys
import tempfile
from contextlib import closing
from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

from ondine.bench.simulated.levels import Level
from ondine.studio.practice.book import PracticeBook, Round, Run
from ondine.ui.table.stages import STAGES

ROOT = Path(__file__).parents[1]
OUT = ROOT / "docs" / "screenshots"
SEASON = ROOT / "src" / "ondine" / "demo" / "season"
RACE = ROOT / "docs" / "examples" / "mill-race.json"
FONT = ROOT / "src" / "ondine" / "assets" / "fonts" / "B612-Regular.otf"
LEFT_OUT = ("flash",)
"""Fewer than twenty pictures are kept."""

VIEWS = [
    ("bench", "day"),
    ("start", "day"),
    ("log", "day"),
    ("atlas", "day"),
    ("compare", "day"),
    ("film", "day"),
    ("import", "day"),
    ("sitting", "day"),
    *((stage.key, "day") for stage in STAGES if stage.key not in LEFT_OUT),
]
PAIRS = (("trigger", "dials"), ("safe", "keep"), ("liquid", "colour"), ("compare", "film"), ("import", "sitting"))
"""Views that share a picture."""

AT = "2026-05-16T18:00:00+00:00"
CELL, CAPTION, COLUMNS = (300, 200), 24, 4


def main() -> None:
    """Draw all."""
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as home:
        for view, theme in VIEWS:
            draw(home, view, theme, OUT / f"{view}-{theme}.png")
        doubt_newest_picture(Path(home) / ".local" / "share" / "ondine" / "demo" / "tidal-mill.ondine")
        draw(home, "bench", "dark-room", OUT / "bench-dark-room.png")
    # In demos of their own: the recipe stays in hand, and the coach goes on speaking.
    with tempfile.TemporaryDirectory() as home:
        draw(home, "times", "day", OUT / "race-day.png", file=RACE)
    with tempfile.TemporaryDirectory() as home:
        draw(home, "map", "day", OUT / "coach-day.png")
        practised(home)
        draw(home, "practice", "day", OUT / "practice-day.png")
    for one, other in PAIRS:
        beside(OUT / f"{one}-day.png", OUT / f"{other}-day.png", OUT / f"{one}-and-{other}-day.png")
    contact_sheet(OUT / "shapes.png")


def doubt_newest_picture(logbook: Path) -> None:
    """Let it be a question whether the newest picture is its shot's."""
    with closing(sqlite3.connect(logbook)) as raw:
        raw.execute("UPDATE picture SET sure = 0 WHERE shot_id = (SELECT id FROM shot ORDER BY at DESC LIMIT 1)")
        raw.commit()


def practised(home: str) -> None:
    """Let some made-up runs on hidden rigs have been played."""
    easy, normal, treacherous = Level
    took = ((5, 3, easy), (4, 3, easy), (9, 3, normal), (3, 3, easy), (6, 4, normal), (4, 3, normal),
            (11, 4, treacherous), (3, 3, normal), (5, 4, treacherous))  # fmt: skip
    runs = tuple(
        Run(level, 1001 + n, "full-umbrella", n % 3 == 0, AT, 0, 0, shots, par, over=True, found=n != 2)
        for n, (shots, par, level) in enumerate(took)
    )
    rounds = tuple(Round(AT, right, 10, points) for right, points in ((4, 38), (6, 55), (7, 63), (8, 74)))
    logbook = Path(home) / ".local" / "share" / "ondine" / "demo" / "tidal-mill.ondine"
    with closing(sqlite3.connect(logbook)) as raw:
        raw.execute("INSERT INTO state VALUES ('practice', ?)", (PracticeBook(runs, rounds=rounds).to_json(),))
        raw.commit()


def beside(left: Path, right: Path, path: Path) -> None:
    """Put two pictures of views beside each other, in place of them."""
    with Image.open(left) as one, Image.open(right) as other:
        made = Image.new("RGB", (2 * one.width + 16, one.height), "#f2f5f4")
        made.paste(one.convert("RGB"), (0, 0))
        made.paste(other.convert("RGB"), (one.width + 16, 0))
    left.unlink()
    right.unlink()
    made.save(path, optimize=True)
    print(path.relative_to(ROOT))


def draw(home: str, view: str, theme: str, path: Path, file: Path | None = None) -> None:
    """Draw one view of a fresh demo, with a file opened in it if one is given."""
    env = {
        **os.environ,
        "HOME": home,
        "XDG_DATA_HOME": f"{home}/.local/share",
        "QT_QPA_PLATFORM": "offscreen",
    }
    command = [sys.executable, "-m", "ondine", "--demo", "--screenshot", str(path), "--view", view, "--theme", theme]
    command += [str(file)] if file else []
    subprocess.run(command, env=env, check=True)
    print(path.relative_to(ROOT))


def contact_sheet(path: Path) -> None:
    """One picture of each main shape, with its name."""
    season = json.loads((SEASON / "season.json").read_text())
    shown: dict[str, list[dict[str, object]]] = {}
    for shot in season:
        for shape in shot["shapes"]:
            shown.setdefault(shape, []).append(shot)
    shown.pop("nothing-in-frame", None)
    # The middle one of a sweep shows its shape best.
    found = {shape: shots[len(shots) // 2] for shape, shots in shown.items()}
    rows = -(-len(found) // COLUMNS)
    sheet = Image.new("RGB", (COLUMNS * (CELL[0] + 8) + 8, rows * (CELL[1] + CAPTION + 8) + 8), "#f2f5f4")
    pen, letters = ImageDraw.Draw(sheet), ImageFont.truetype(str(FONT), 13)
    for place, (shape, shot) in enumerate(found.items()):
        x = 8 + place % COLUMNS * (CELL[0] + 8)
        y = 8 + place // COLUMNS * (CELL[1] + CAPTION + 8)
        with Image.open(SEASON / str(shot["picture"])) as picture:
            sheet.paste(picture.resize(CELL, Image.Resampling.LANCZOS), (x, y))
        pen.text((x, y + CELL[1] + 4), shape.replace("-", " "), fill="#12252d", font=letters)
    sheet.save(path, optimize=True)
    print(path.relative_to(ROOT))


if __name__ == "__main__":
    main()
