"""Draws the flight chart."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property, partial

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from ondine.core.constants import US_PER_S
from ondine.core.forecast.curves import ColumnCurve, CraterCurve, Curve, FallCurve, JetCurve, SheetCurve
from ondine.core.forecast.events import MEETINGS
from ondine.core.forecast.prediction import Prediction
from ondine.core.numbers import plus_minus_ms
from ondine.core.timing.items import Item, drop
from ondine.core.timing.sequence import Pulse
from ondine.ui.bench.chart_places import badge_of, lines_of
from ondine.ui.bench.label_room import Labels, Line
from ondine.ui.bench.lane_paint import SHUTTER_PX, LanePainter, Tie
from ondine.ui.bench.lanes import Faults, Lanes
from ondine.ui.kit.lettering import CENTRE, LEFT, RIGHT, text_width, write
from ondine.ui.kit.scales import HeightScale, TimeScale
from ondine.ui.kit.sketch import BADGE_PX, Sketch
from ondine.ui.kit.strokes import band, polygon
from ondine.ui.kit.theme import SMALL_PX, Theme, font

DASHES: tuple[list[float], ...] = ([], [7, 3], [2, 3], [8, 3, 2, 3])
LABEL_PX, RING_PX, FAR_PX, CRATER_LABEL_PX = 16.0, 12.0, 24.0, 90.0
NEAR_ROOF_PX = 13


@dataclass(frozen=True, eq=False)
class Part:
    """One thing on the chart. Two parts of one name that are drawn from equal facts look the same."""

    name: str
    facts: tuple[object, ...]
    draw: Callable[[Sketch], None]
    """Adds it to a sketch; what lies in the lanes is drawn at once, for little of it moves."""
    in_lanes: bool = False


@dataclass
class ChartPainter:
    """One painting of the chart; the fields are its inputs, `paint` does it."""

    painter: QPainter
    area: QRectF
    time: TimeScale
    height: HeightScale
    lanes: Lanes
    faults: Faults
    theme: Theme
    prediction: Prediction
    chosen: frozenset[Item]
    """What is selected, and what lies under the cursor."""
    focused: bool
    labels_lay: dict[int, QPointF]
    """Where the label of each drop's meeting lay from its ring in the frame before; it is kept up."""
    ties: tuple[Tie, ...]
    tells: Callable[[int], str]

    @property
    def scales(self) -> tuple[object, ...]:
        """What everything that is drawn hangs on."""
        return self.time, self.height, self.lanes, self.theme.name

    def on(self, painter: QPainter) -> ChartPainter:
        """Return the same painting on another surface."""
        return replace(self, painter=painter)

    @cached_property
    def electronics(self) -> LanePainter:
        """What draws the lanes."""
        return LanePainter(
            self.painter, self.area, self.time, self.lanes, self.faults, self.theme, self.prediction,
            self.chosen, self.ties, self.tells,
        )  # fmt: skip

    def paint_scales(self) -> None:
        """Draw what stays while drops move: air, water, the line between them, ticks and names."""
        area, surface = self.area.toRect(), round(self.height.base_y)
        self.painter.fillRect(area, self.theme.colour("air"))
        self.painter.fillRect(area.adjusted(0, surface, 0, 0), self.theme.colour("water"))
        if self.height.shows_water:
            self.painter.setPen(QPen(self.theme.colour("water_ink"), 2))
        else:
            # The window ends here; the water lies lower.
            self.painter.setPen(QPen(self.theme.colour("line"), 1, Qt.PenStyle.DashLine))
        self.painter.drawLine(QPointF(0, self.height.base_y), QPointF(area.width(), self.height.base_y))
        self.painter.setFont(font(SMALL_PX))
        self._height_ticks()
        self._time_ticks()
        self.electronics.paint_names()

    def parts(self) -> list[Part]:
        """All that stays while the flash moves, from the back to the front."""
        course, known = self.prediction.course, self.prediction.sequence
        found = []
        for c, named in zip(course.craters, self._named_craters(), strict=True):
            found.append(Part(f"crater {c.drop}", (c, named), partial(self._crater, c, named)))
        found += [Part(f"column {c.drop}", (c,), partial(self._column, c)) for c in course.columns]
        alone = not course.sheets and len(course.jets) == 1
        found += [Part(f"jet {jet.drop}", (jet, alone), partial(self._jet, jet, alone)) for jet in course.jets]
        for fall in course.falls:
            found.append(Part(f"fall {fall.drop}", (fall, drop(fall.drop) in self.chosen), partial(self._fall, fall)))
        found += [Part(f"sheet {sheet.drop}", (sheet,), partial(self._sheet, sheet)) for sheet in course.sheets]
        found.append(Part("meeting", (*course.meetings, *course.falls, *known.flashes), self._meeting))
        found.append(Part("lanes", (), lambda _: self.electronics.paint_lanes(), in_lanes=True))
        for index, pulse in enumerate(known.drops):
            facts = pulse, drop(index) in self.chosen, index in self.faults.drops
            found.append(Part(f"pulse {index}", facts, partial(self._pulse, index, pulse), in_lanes=True))
        return found

    def paint_parts(self, parts: list[Part]) -> None:
        """Draw some of the parts."""
        self.painter.setFont(font(SMALL_PX))
        self.painter.save()
        lanes = self.area.toRect().adjusted(round(self.time.left), 0, 0, 0)
        air = lanes.adjusted(0, round(self.height.top_y) - 4, 0, 0)
        air.setBottom(round(self.lanes.top if self.height.shows_water else self.height.base_y))
        for clip, in_lanes in ((air, False), (lanes, True)):
            # In whole pixels: a fractional clip costs as much as the whole chart.
            self.painter.setClipRect(clip)
            sketch = Sketch()
            for part in parts:
                if part.in_lanes is in_lanes:
                    part.draw(sketch)
            sketch.paint(self.painter)
        self.painter.restore()

    def _pulse(self, index: int, pulse: Pulse, sketch: Sketch) -> None:
        self.electronics.paint_pulse(index, pulse)

    def paint_flash(self) -> None:
        """Draw what moves with the flashes: the camera, their lines, what is locked; and the focus of the chart."""
        self.painter.setFont(font(SMALL_PX))
        self.electronics.paint_shutter()
        self.electronics.paint_commands()
        self.electronics.paint_flashes()
        if self.ties:
            self.painter.save()
            self.painter.setClipRect(self.area.toRect().adjusted(round(self.time.left), 0, 0, 0))
            self.electronics.paint_ties()
            self.painter.restore()
        if self.focused:
            self.painter.setPen(QPen(self.theme.colour("line"), 1.5))
            self.painter.setBrush(Qt.BrushStyle.NoBrush)
            self.painter.drawRoundedRect(self.area.adjusted(1, 1, -1, -1), 4, 4)

    # Scales

    def _height_ticks(self) -> None:
        p, right, left = self.painter, self.time.right, self.time.left - 6
        nozzle_mm = self.prediction.nozzle_height_m * 1e3
        roof_y = self.height.y(self.prediction.nozzle_height_m)
        whole = roof_y >= self.height.top_y - 1
        for mm in self.height.ticks_mm():
            y = self.height.y(mm / 1e3)
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(QPointF(self.time.left, y), QPointF(right, y))
            if y - self.height.top_y > NEAR_ROOF_PX and self.height.base_y - y > NEAR_ROOF_PX:
                self._label(QRectF(0, y - 8, left, 16), f"{mm:g}", "soft_ink", right=True)
        if whole:
            p.setPen(QPen(self.theme.colour("line"), 1))
            p.drawLine(QPointF(self.time.left, roof_y), QPointF(right, roof_y))
            words = f"nozzle {nozzle_mm:.0f} mm"
            self._label(QRectF(self.time.left + 4, roof_y - 17, 240, 16), words, "soft_ink")
        base = f"{self.height.base_m * 1e3:.0f} mm"
        self._label(QRectF(0, self.height.base_y - 18, left, 16), base, "soft_ink", right=True)

    def _time_ticks(self) -> None:
        p, step = self.painter, self.time.step_s()
        axis_y = self.lanes.foot
        tick = np.ceil(self.time.start_s / step) * step
        while tick <= self.time.end_s + 1e-9:
            x = self.time.x(tick)
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(QPointF(x, self.height.base_y), QPointF(x, axis_y + 4))
            text = f"{round(tick * 1e3, 3):g}"
            if x < self.time.right - 40:
                self._label(QRectF(x - 30, axis_y + 5, 60, 16), text, "soft_ink", centre=True)
            tick += step
        self._label(QRectF(self.time.right - 60, axis_y + 5, 60, 16), "ms", "soft_ink", right=True)

    # Water

    def _crater(self, crater: CraterCurve, named: bool, sketch: Sketch) -> None:
        if not self.height.shows_water:
            return
        ((xs, ys),) = self._lines(crater)
        left, right, base = float(xs[0]), float(xs[-1]), self.height.base_y
        sketch.fill(self.theme.colour("air"), polygon(xs, ys))
        sketch.curve(self.theme.colour("water_ink"), 1.5, xs, ys)
        # The surface is open here: take the line away.
        sketch.line(self.theme.colour("air"), 2, QPointF(left + 1, base), QPointF(right - 1, base))
        deepest = int(np.argmax(crater.depth_m))
        floor = QPointF(float(xs[deepest]), float(ys[deepest]))
        if floor.y() + 16 > self.lanes.top + self.electronics.inset(SHUTTER_PX):
            # In a low window the lanes need the room.
            return
        if named:
            words = f"crater {crater.depth_m[deepest] * 1e3:.0f} mm"
            sketch.words(
                self.theme.colour("soft_ink"), QRectF(floor.x() - 60, floor.y() + 2, 120, LABEL_PX), words, CENTRE
            )

    def _named_craters(self) -> list[bool]:
        """Which craters carry their names: not where that of an earlier one lies."""
        craters = self.prediction.course.craters
        middles = [float(self._lines(one)[0][0][int(np.argmax(one.depth_m))]) for one in craters]
        return [
            all(abs(middle - earlier) >= CRATER_LABEL_PX for earlier in middles[:place])
            for place, middle in enumerate(middles)
        ]

    def _column(self, column: ColumnCurve, sketch: Sketch) -> None:
        sketch.curve(self.theme.colour("water_ink", 0.6), 2.0, *self._lines(column)[0], DASHES[2])

    def _jet(self, jet: JetCurve, alone: bool, sketch: Sketch) -> None:
        ((xs, ys),) = self._lines(jet)
        around = np.concatenate([self.height.y(jet.high_m), self.height.y(jet.low_m)[::-1]])
        sketch.fill(self.theme.colour("water_ink", 0.16), polygon(np.concatenate([xs, xs[::-1]]), around))
        sketch.curve(self.theme.colour("water_ink"), 2.5, xs, ys)
        if alone:
            highest = int(np.argmax(jet.height_m))
            room = QRectF(float(xs[highest]) - 20, float(ys[highest]) - 20, 40, LABEL_PX)
            sketch.words(self.theme.colour("water_ink"), room, "jet", CENTRE)

    def _fall(self, fall: FallCurve, sketch: Sketch) -> None:
        ink, chosen = self.theme.drop(fall.drop), drop(fall.drop) in self.chosen
        ((xs, ys),) = self._lines(fall)
        aside = fall.sd_s * self.time.px_per_s
        sketch.fill(self.theme.drop(fall.drop, 0.14), band(xs - aside, xs + aside, ys))
        sketch.curve(ink, 3.2 if chosen else 2.0, xs, ys, DASHES[fall.drop % len(DASHES)])
        place = badge_of(fall, self.time, self.height)
        if place is not None:
            rim = self.theme.colour("ink") if chosen else None
            sketch.badge(str(fall.drop + 1), place, ink, self.theme.colour("air"), rim)

    def _sheet(self, sheet: SheetCurve, sketch: Sketch) -> None:
        (xs, upper), (_, lower) = self._lines(sheet)
        full = self.time.x(np.linspace(sheet.full_from_s, sheet.full_until_s, 8))
        for across, strength in ((xs, 0.22), (full, 0.6)):
            sides = np.concatenate([np.interp(across, xs, upper), np.interp(across, xs, lower)[::-1]])
            outline = polygon(np.concatenate([across, across[::-1]]), sides)
            sketch.fill(self.theme.drop(sheet.drop, strength), outline)
        for ys in (upper, lower):
            sketch.curve(self.theme.drop(sheet.drop), 1.5, xs, ys)

    def _meeting(self, sketch: Sketch) -> None:
        """A ring where they meet, and what it is in words."""
        ink = self.theme.colour("ink")
        top, right = max(self.height.y(self.prediction.nozzle_height_m), self.height.top_y), self.time.right
        air = QRectF(QPointF(self.time.left, top), QPointF(right, self.height.base_y - 1))
        places = [self.time.x(flash.at_us / US_PER_S) for flash in self.prediction.sequence.flashes]
        flashes = [QRectF(x - 4, air.top(), 8, air.height()) for x in places]
        labels = Labels(self._curves(), [*self._badges(), *flashes], air)
        for event in self.prediction.course.meetings:
            if event.kind not in MEETINGS or event.height_m is None:
                continue
            if event.probability < 0.5:
                continue
            place = QPointF(self.time.x(event.time_s.mean), self.height.y(event.height_m.mean))
            if not air.contains(place):
                continue
            sketch.ring(place, RING_PX / 2, QPen(ink, 2))
            height, share = f"{event.height_m.mean * 1e3:.0f} mm", event.probability
            text = f"meet {plus_minus_ms(event.time_s.mean, event.time_s.sd)}, {height}"
            if share < 0.995:
                text += f", {share:.0%}"
            room = labels.room(place, text_width(text), LABEL_PX, self.labels_lay.get(event.drop))
            self.labels_lay[event.drop] = room.topLeft() - place
            sketch.words(ink, room, text)
            self._lead(room, place, sketch)

    def _lead(self, room: QRectF, ring: QPointF, sketch: Sketch) -> None:
        """Lead a thin line from a label that stands far away to its ring."""
        near = QPointF(min(max(ring.x(), room.left()), room.right()), min(max(ring.y(), room.top()), room.bottom()))
        line = QLineF(near, ring)
        if line.length() > FAR_PX:
            line.setLength(line.length() - RING_PX / 2)
            sketch.line(self.theme.colour("line"), 1, line.p1(), line.p2())

    # Places

    def _lines(self, curve: Curve) -> tuple[Line, ...]:
        return lines_of(curve, self.time, self.height)

    def _curves(self) -> list[Line]:
        """All lines of the air, in pixels."""
        course = self.prediction.course
        curves: list[Curve] = [*course.falls, *course.jets, *course.columns, *course.sheets]
        return [line for curve in curves for line in self._lines(curve)]

    def _badges(self) -> list[QRectF]:
        places = [badge_of(fall, self.time, self.height) for fall in self.prediction.course.falls]
        return [
            QRectF(at.x() - BADGE_PX, at.y() - BADGE_PX, 2 * BADGE_PX, 2 * BADGE_PX) for at in places if at is not None
        ]

    # Words

    def _label(self, room: QRectF, text: str, role: str, right: bool = False, centre: bool = False) -> None:
        self.painter.setPen(self.theme.colour(role))
        write(self.painter, room, text, CENTRE if centre else RIGHT if right else LEFT)
