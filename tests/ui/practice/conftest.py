from collections.abc import Iterator

import pytest

from ondine.bench.protocol import Bench as DeviceBench
from ondine.bench.simulated.devices import SimulatedController, SimulatedTable
from ondine.core.setup import BenchKind
from ondine.ui.shell import app as ui_app
from tests.conftest import TestCamera
from tests.ui.conftest import Bench, shown


class DeafCamera(TestCamera):
    def expose(self, *what: object) -> None:
        """Take no picture: none of these tests looks at one."""


@pytest.fixture
def hidden(qtbot, tmp_path, clock) -> Iterator[Bench]:
    """A window on a simulated bench that takes no time and no pictures."""
    ui_app.application()
    camera = DeafCamera()
    controller = SimulatedController(SimulatedTable(1, clock, lambda _: None), camera)
    yield from shown(Bench(tmp_path, clock, DeviceBench(BenchKind.SIMULATED, controller, camera)), qtbot)
