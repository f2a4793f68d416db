"""The window as a screen reader has it: a real client of the accessibility bus, a real window on a display."""

import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests.test_window import display  # noqa: F401

pytestmark = pytest.mark.window

SYSTEM_PYTHON = "/usr/bin/python3"
CLIENT = Path(__file__).parent / "atspi_client.py"

APP = """
import sys
from pathlib import Path
from ondine.core.setup import BenchKind
from ondine.demo.install import demo_logbook, install_demo
from ondine.demo.scenario import SEED
from ondine.demo.taught import IN_HAND
from ondine.studio.places import Places
from ondine.ui.shell import app as ui
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import Windows

if __name__ == "__main__":
    home = Path(sys.argv[1])
    install_demo(home)
    real = Windows._watch_over
    def watch(windows, window, logbook):
        real(windows, window, logbook)
        window.studio.sitting.preflight_done = True
    Windows._watch_over = watch
    opening = Opening(demo_logbook(home), None, "Tidal Mill", IN_HAND, BenchKind.SIMULATED, SEED)
    sys.exit(ui.run(lambda: opening, None, None, Places.of_user(), remembers=False))
"""


class Reader:
    """What a screen reader asks."""

    def __init__(self, client: subprocess.Popen[str]) -> None:
        self.client = client
        assert self._answer() == {"ready": True}

    def _answer(self) -> object:
        assert self.client.stdout is not None
        for line in self.client.stdout:
            # The bus has its own things to say.
            if line.startswith("> "):
                return json.loads(line[2:])
        raise AssertionError("the client ended")

    def ask(self, **request: object) -> object:
        assert self.client.stdin is not None
        self.client.stdin.write(json.dumps(request) + "\n")
        self.client.stdin.flush()
        return self._answer()

    def walk(self) -> list[dict[str, object]]:
        return self.ask(walk=True)

    def parts(self, view: str) -> dict[str, dict[str, object]]:
        return {n["name"]: n for n in self.ask(parts=view)}

    def act(self, name: str, action: str) -> None:
        until(lambda: self.ask(act=name, action=action))

    def heard(self) -> list[str]:
        return self.ask(heard=True)


def until(look: Callable[[], object], within_s: float = 20) -> object:
    end = time.monotonic() + within_s
    while not (found := look()):
        assert time.monotonic() < end, "waited in vain"
        time.sleep(0.1)
    return found


def _end(client: "subprocess.Popen[str]") -> None:
    """End bus, program and reader in order; whatever hangs is ended with its whole session."""
    assert client.stdin is not None
    client.stdin.close()
    try:
        client.wait(20)
    except subprocess.TimeoutExpired:
        os.killpg(client.pid, signal.SIGKILL)
        client.wait(20)


@pytest.fixture
def reader(display, tmp_path) -> Iterator[Reader]:  # noqa: F811
    have = shutil.which("dbus-run-session") and subprocess.run(
        [SYSTEM_PYTHON, "-c", "import gi; gi.require_version('Atspi', '2.0')"], capture_output=True, check=False
    )
    if not have or have.returncode:
        pytest.skip("the bindings of the accessibility bus are not installed: ./dev installs them on Debian and Ubuntu")
    script, both = tmp_path / "app.py", tmp_path / "both.sh"
    script.write_text(APP)
    # One session bus for the program and its reader; with the reader goes the program.
    both.write_text(
        f'"{sys.executable}" "{script}" "{tmp_path / "home"}" >"{tmp_path / "app.log"}" 2>&1 &\n'
        f'PYTHONWARNINGS=ignore {SYSTEM_PYTHON} "{CLIENT}" 2>>"{tmp_path / "client.log"}"\nkill $! ; wait $!\n'
    )
    runtime = tempfile.mkdtemp(prefix="ondine-")
    gone = ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY", "DBUS_SESSION_BUS_ADDRESS", "PYTHONPATH")
    env = {k: v for k, v in os.environ.items() if k not in gone} | {
        "DISPLAY": display, "QT_QPA_PLATFORM": "xcb", "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
        # The bus has its socket there, and a socket's path must be short.
        "XDG_RUNTIME_DIR": runtime, "XDG_DATA_HOME": str(tmp_path / "data"), "XDG_STATE_HOME": str(tmp_path / "state"),
    }  # fmt: skip
    if "PYTHONPATH" in os.environ:
        both.write_text(f'export APP_PATH="{os.environ["PYTHONPATH"]}"\nPYTHONPATH="$APP_PATH" ' + both.read_text())
    with subprocess.Popen(
        ["dbus-run-session", "--", "bash", str(both)],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=env, start_new_session=True,
    ) as client:  # fmt: skip
        try:
            yield Reader(client)
        finally:
            _end(client)
            shutil.rmtree(runtime, ignore_errors=True)
    assert "Traceback" not in (tmp_path / "app.log").read_text()


def value_of(reader: Reader, view: str, part: str) -> object:
    return reader.parts(view).get(part, {}).get("value")


@pytest.mark.timeout(240)
def test_a_screen_reader_finds_moves_and_hears_what_is_painted(reader):
    chart = until(lambda: reader.parts("Flight chart"))
    assert {"Flash", "Drop 1 starts", "Drop 1 open for", "Drop 2 starts", "Drop 2 open for"} <= chart.keys()
    assert chart["Flash"]["role"] == "spin button" and chart["Flash"]["value"] == 356.0
    assert chart["Drop 2 starts"]["value"] == 95.0 and "Increase" in chart["Drop 2 starts"]["actions"]
    reader.act("Flash", "Increase")
    until(lambda: value_of(reader, "Flight chart", "Flash") == 357.0)
    reader.act("Drop 2 open for", "Decrease")
    until(lambda: value_of(reader, "Flight chart", "Drop 2 open for") == 21.0)
    # The large number follows.
    until(lambda: any(n["name"] == "Flash delay" and n["value"] == 357.0 for n in reader.walk()))

    reader.act("Fire", "Press")
    until(lambda: "Shot 153 fired" in reader.heard())
    until(lambda: "Picture of shot 153 arrived" in reader.heard(), within_s=60)

    for stage, view, part, value in (
        ("Rig", "Rig drawing", "Nozzle, nozzle over the water", 365.0),
        ("Frame", "What the frame holds", "Magnification", 0.4),
        ("Freeze", "Blur and ISO over power", "Power, in stops of full", -6.0),
    ):
        reader.act(stage, "Press")
        parts = until(lambda view=view, part=part: reader.parts(view) if part in reader.parts(view) else None)
        assert parts[part]["value"] == pytest.approx(value), (stage, parts)
    reader.act("Power, in stops of full", "Increase")
    until(lambda: (value_of(reader, "Blur and ISO over power", "Power, in stops of full") or -6.0) > -6.0)


@pytest.mark.timeout(240)
def test_every_control_of_every_stage_has_a_name_on_the_bus(reader):
    nameless = []
    roles = ("combo box", "list", "table", "spin button", "text", "push button", "check box", "toggle button")
    for stage in (
        "Safe",
        "Rig",
        "Valve",
        "Liquid",
        "Frame",
        "Flash",
        "Freeze",
        "Expose",
        "Colour",
        "Trigger",
        "Dials",
        "Keep",
    ):
        reader.act(stage, "Press")
        time.sleep(0.3)
        found = until(reader.walk)
        nameless += [
            f"{stage}: {n['role']} in “{n['in']}”" for n in found if n["role"] in roles and not n["name"].strip()
        ]
        fillers = [n["name"] for n in found if n["role"] == "filler" and n["focusable"] and not n["name"]]
        assert not fillers, stage
    assert nameless == []
