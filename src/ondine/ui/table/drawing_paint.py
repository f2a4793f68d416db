"""How the rig drawing looks: water, bowl, drop path, camera, flashes, results in place, handles."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from ondine.core.light.lens import distance_at_m
from ondine.core.numbers import plus_minus_ms
from ondine.core.setup import Place, Setup, Valve
from ondine.core.table.results import TableResults
from ondine.core.units import Units, quantity_of
from ondine.ui.kit.lettering import Lettering
from ondine.ui.kit.theme import SMALL_PX, Theme, font
from ondine.ui.table.elevation import Elevation
from ondine.ui.table.handles import Handle

LINE_PX, NUMBERS_PX = 17.0, 64.0
NAMED = ("nozzle 0", "camera")
"""Handles whose things are named on the drawing anyway."""


@dataclass
class DrawingPainter:
    """Draws one table once."""

    p: QPainter
    theme: Theme
    at: Elevation
    setup: Setup
    results: TableResults
    units: Units
    room: QRectF = field(default_factory=QRectF)
    written: list[QRectF] = field(default_factory=list)
    """Where words and marks stand already."""

    def draw(self, room: QRectF, grips: list[Handle], held: str, hover: str, marks: list[tuple[str, int]]) -> None:
        """Draw everything, from the ground up."""
        p, self.room = self.p, room
        p.fillRect(room, self.theme.colour("air"))
        p.fillRect(QRectF(0, self.at.water_px, room.width(), room.bottom()), self.theme.colour("water"))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._view()
        self._bowl()
        self._water(room)
        self._splash()
        for valve in self.setup.valves:
            self._valve(valve)
        for index in range(len(self.setup.light.units)):
            self._flash(index)
        self._camera()
        self._results()
        self._scale_bar(room)
        for grip in grips:
            self._grip(grip, grip.key == held, grip.key == hover)
        for place, number in marks:
            self._mark(place, number, grips, [m for m in marks if m[0] == place].index((place, number)))
        self._numbers(room)

    # The table

    def _bowl(self) -> None:
        p, bowl = self.p, self.setup.bowl
        rim = bowl.diameter_m / 2
        left, right = -rim - bowl.landing_m, rim - bowl.landing_m
        foot = 0.16 * rim
        path = QPainterPath(self.at.point(left - 0.004, 0.002))
        path.cubicTo(
            self.at.point(left + 0.004, -0.7 * bowl.depth_m),
            self.at.point(left + foot, -bowl.depth_m),
            self.at.point(left + 2 * foot, -bowl.depth_m),
        )
        path.lineTo(self.at.point(right - 2 * foot, -bowl.depth_m))
        path.cubicTo(
            self.at.point(right - foot, -bowl.depth_m),
            self.at.point(right - 0.004, -0.7 * bowl.depth_m),
            self.at.point(right + 0.004, 0.002),
        )
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.colour("water_ink", 0.14))
        p.drawPath(path)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(self.theme.colour("ink"), 2.2))
        p.drawPath(path)

    def _water(self, room: QRectF) -> None:
        self.p.setPen(QPen(self.theme.colour("water_ink"), 2))
        self.p.drawLine(QPointF(0, self.at.water_px), QPointF(room.width(), self.at.water_px))

    def _splash(self) -> None:
        """Crater, jet and the drop on its way, to scale."""
        p, results = self.p, self.results
        if results.crater_m is not None:
            radius = results.crater_m.mean * self.at.px_per_m
            centre = self.at.point(0, 0)
            p.setPen(QPen(self.theme.colour("water_ink"), 1.6))
            p.setBrush(self.theme.colour("air"))
            p.drawChord(QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius), 180 * 16, 180 * 16)
        if results.jet_m is not None:
            top = self.at.point(0, results.jet_m.mean)
            p.setPen(QPen(self.theme.colour("water_ink"), 3.0))
            p.drawLine(self.at.point(0, 0), top)
            p.setPen(QPen(self.theme.colour("water_ink", 0.35), 7.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            low, high = (results.jet_m.mean + sign * results.jet_m.sd for sign in (-1, 1))
            p.drawLine(self.at.point(0, low), self.at.point(0, high))
        for valve in self.setup.valves:
            p.setPen(QPen(self.theme.drop(0), 1.2, Qt.PenStyle.DashLine))
            p.drawLine(self.at.point(valve.x_m, valve.nozzle_height_m), self.at.point(valve.x_m, 0))
        if results.diameter_m is not None:
            first = self.setup.valves[0]
            radius = max(results.diameter_m.mean / 2 * self.at.px_per_m, 1.5)
            for share in (0.06, 0.22, 0.52):
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(self.theme.drop(0, 1.0 if share == 0.52 else 0.45))
                p.drawEllipse(self.at.point(first.x_m, first.nozzle_height_m * (1 - share)), radius, radius)

    def _valve(self, valve: Valve) -> None:
        """Reservoir, its level, and the valve."""
        p, height, x = self.p, valve.nozzle_height_m, valve.x_m
        half = valve.reservoir_diameter_m / 2
        level, neck = height + valve.head_m, height + min(0.035, 0.4 * valve.head_m)
        liquid = [(-half, level), (half, level), (half, neck), (0.006, neck), (0.006, height + 0.012),
                  (-0.006, height + 0.012), (-0.006, neck), (-half, neck)]  # fmt: skip
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.drop(0, 0.20))
        p.drawPolygon(QPolygonF([self.at.point(x + off, up) for off, up in liquid]))
        beside = abs(valve.aside_m - self.setup.valves[0].aside_m) > 1e-3
        style = Qt.PenStyle.DashLine if beside else Qt.PenStyle.SolidLine
        p.setPen(QPen(self.theme.colour("ink"), 1.6, style))
        wall = [(half, level + 0.02), (half, neck), (0.006, neck), (0.006, height + 0.012)]
        for side in (-1, 1):
            p.drawPolyline(QPolygonF([self.at.point(x + side * off, up) for off, up in wall]))
        body = QRectF(self.at.point(x - 0.014, height + 0.024), self.at.point(x + 0.014, height + 0.006))
        p.setBrush(self.theme.colour("ink"))
        p.drawRoundedRect(body, 2, 2)
        p.drawRect(QRectF(self.at.point(x - 0.003, height + 0.008), self.at.point(x + 0.003, height)))

    def _flash(self, index: int) -> None:
        p, flash = self.p, self.setup.light.units[index]
        here, target = self.at.point(flash.x_m, flash.height_m), self.at.point(0, 0.02)
        beside = abs(flash.aside_m) > abs(flash.x_m) or flash.place is Place.SIDE
        angle = math.degrees(math.atan2(target.y() - here.y(), target.x() - here.x()))
        p.save()
        p.translate(here)
        p.rotate(angle)
        style = Qt.PenStyle.DashLine if beside else Qt.PenStyle.SolidLine
        p.setPen(QPen(self.theme.colour("light"), 1.6, style))
        p.setBrush(self.theme.colour("light", 0.15 if beside else 0.85))
        p.drawRoundedRect(QRectF(-26, -9, 26, 18), 3, 3)
        p.setBrush(self.theme.colour("light", 0.10))
        p.setPen(Qt.PenStyle.NoPen)
        # So pale an edge needs no smoothing, and smoothing a large surface costs a millisecond.
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        reach = 0.55 * math.hypot(target.x() - here.x(), target.y() - here.y())
        p.drawPolygon(
            QPolygonF([QPointF(0, -8), QPointF(reach, -0.24 * reach), QPointF(reach, 0.24 * reach), QPointF(0, 8)])
        )
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if flash.guard:
            p.setPen(QPen(self.theme.colour("ink"), 1.6))
            p.drawLine(QPointF(8, -14), QPointF(8, 14))
        p.restore()
        words = f"{flash.name}  1/{1 / flash.power:.0f}"
        far = f"{self.units.length_words(flash.distance_m)}{', beside' if beside else ''}"
        corner = here + (QPointF(36, -34) if flash.x_m > 0 else QPointF(-60, -62))
        self._text(corner, words, "light_text", width=150)
        self._text(corner + QPointF(0, 15), far, "soft_ink", width=150)

    def _view(self) -> None:
        """The field of view, from the lens to the plane of the splash and on."""
        camera = self.setup.camera
        away = distance_at_m(camera.focal_length_m, camera.magnification)
        lens = self.at.point(away, camera.height_m)
        top, foot = self.at.point(0, camera.frame_top_m), self.at.point(0, camera.frame_foot_m)
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.setBrush(self.theme.colour("ink", 0.06))
        self.p.drawPolygon(QPolygonF([lens, top, foot]))
        self.p.setPen(QPen(self.theme.colour("ink"), 2.0))
        self.p.drawLine(top, foot)
        for end in (top, foot):
            self.p.drawLine(end - QPointF(5, 0), end + QPointF(5, 0))

    def _camera(self) -> None:
        p, camera = self.p, self.setup.camera
        away = distance_at_m(camera.focal_length_m, camera.magnification)
        front = self.at.point(camera.front_glass_m, camera.height_m)
        middle = self.at.point(0, (camera.frame_top_m + camera.frame_foot_m) / 2)
        long = max((away - camera.front_glass_m + 0.02) * self.at.px_per_m, 30)
        p.save()
        p.translate(front)
        p.rotate(math.degrees(math.atan2(front.y() - middle.y(), front.x() - middle.x())))
        p.setPen(QPen(self.theme.colour("ink"), 1.6))
        p.setBrush(self.theme.colour("air"))
        p.drawRoundedRect(QRectF(0, -16, long, 32), 3, 3)
        p.drawRoundedRect(QRectF(long, -25, 40, 46), 4, 4)
        p.setPen(QPen(self.theme.colour("water_ink"), 3))
        p.drawLine(QPointF(1, -14), QPointF(1, 14))
        if camera.front_guard:
            p.setPen(QPen(self.theme.colour("ink"), 1.6))
            p.drawLine(QPointF(-9, -22), QPointF(-9, 22))
        p.restore()

    # Words

    def _results(self) -> None:
        """The numbers, each where it arises."""
        results, valve, camera = self.results, self.setup.valves[0], self.setup.camera
        x = self.at.axis_px - 14
        nozzle, water = self.at.point(0, valve.nozzle_height_m).y(), self.at.water_px
        words = self.units.length_words
        self._text(
            QPointF(self.at.axis_px + 22, nozzle - 6), f"nozzle {words(valve.nozzle_height_m)}", "ink", width=190
        )
        if results.diameter_m is not None:
            size = f"drop {results.diameter_m.mean * 1e3:.1f} mm, {results.volume_m3 * 1e9:.0f} µL"
            self._text(QPointF(x - 200, nozzle + 22), size, "ink", 200, right=True)
        if results.fall_s is not None and results.impact_m_s is not None:
            fall = f"falls {plus_minus_ms(results.fall_s.mean, results.fall_s.sd)}"
            self._text(QPointF(x - 200, (nozzle + water) / 2 - 8), fall, "ink", 200, right=True, bold=True)
            hit = f"hits at {results.impact_m_s.mean:.2f} m/s, {results.energy_j * 1e3:.2f} mJ"
            self._text(QPointF(x - 220, water - 26), hit, "ink", 220, right=True)
        if results.crater_m is not None:
            deep = f"crater {words(results.crater_m.mean)} deep, bowl {words(self.setup.bowl.depth_m)}"
            self._text(
                QPointF(self.at.axis_px - 150, self.at.point(0, -self.setup.bowl.depth_m).y() + 5), deep, "ink", 300
            )
        jet = "no jet"
        if results.jet_m is not None:
            jet = f"jet {words(results.jet_m.mean)} ± {words(results.jet_m.sd)}"
        self._text(QPointF(x - 260, water - 64), f"{jet}, frame to {words(camera.frame_top_m)}", "ink", 260, right=True)
        front = self.at.point(camera.front_glass_m, camera.height_m)
        facts = f"{camera.magnification:.2f}×, {words(camera.front_glass_m)} away"
        self._text(QPointF(front.x() - 20, front.y() - 72), camera.name, "ink", 190, bold=True)
        self._text(QPointF(front.x() - 20, front.y() - 57), facts, "soft_ink", 190)

    def _text(
        self, corner: QPointF, words: str, role: str, width: float = 200, right: bool = False, bold: bool = False
    ) -> None:
        self.p.setFont(font(SMALL_PX, bold))
        ink = self.p.fontMetrics().horizontalAdvance(words)
        left = corner.x() + width - ink if right else corner.x()
        room = self._free(QRectF(left, corner.y(), ink, LINE_PX))
        self.p.setPen(self.theme.colour(role))
        self.p.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)

    def _free(self, wanted: QRectF) -> QRectF:
        """Return the room for a line, moved into the drawing and up or down until it covers no other; it is taken."""
        room = QRectF(wanted)
        room.moveLeft(min(max(room.left(), 6.0), self.room.right() - room.width() - 6))
        lowest = self.room.bottom() - room.height() - 4
        room.moveTop(min(max(room.top(), 4.0), lowest))
        for move in (0.0, *(sign * away for away in range(4, 240, 4) for sign in (1, -1))):
            moved = room.translated(0, move)
            if 4 <= moved.top() <= lowest and not any(moved.intersects(taken) for taken in self.written):
                room = moved
                break
        self.written.append(room)
        return room

    def _numbers(self, room: QRectF) -> None:
        """The four that decide, large, in the water below the bowl."""
        results, camera = self.results, self.setup.camera
        length = quantity_of("camera.height_m", self.units)
        jet = results.jet_m and f"{length.shown(results.jet_m.mean):.{length.decimals}f}"
        facts = [
            ("the drop", results.diameter_m and f"{results.diameter_m.mean * 1e3:.1f}", "mm"),
            ("falls", results.fall_s and f"{results.fall_s.mean * 1e3:.0f}", "ms"),
            ("hits at", results.impact_m_s and f"{results.impact_m_s.mean:.2f}", "m/s"),
            (f"jet, frame to {length.words(camera.frame_top_m)}", jet, length.unit),
        ]
        says = [words for _, words in results.warnings[:3]]
        # In a low window they move up, into the bowl if need be.
        lowest = room.bottom() - NUMBERS_PX - LINE_PX * len(says)
        top = min(self.at.point(0, -self.setup.bowl.depth_m).y() + 44, lowest)
        wide = (room.width() - 48) / len(facts)
        for index, (name, value, unit) in enumerate(facts):
            room_of = QRectF(24 + index * wide, top, wide, 60)
            Lettering(self.p, self.theme).figure(room_of, name, value or "none", unit if value else "")
        for line, words in enumerate(says, start=1):
            self._text(QPointF(24, top + NUMBERS_PX - LINE_PX + LINE_PX * line), f"{line}  {words}", "ink")

    def _scale_bar(self, room: QRectF) -> None:
        length = 0.1 * self.at.px_per_m
        y, left = 20.0, 16.0
        self.p.setPen(QPen(self.theme.colour("soft_ink"), 1.5))
        self.p.drawLine(QPointF(left, y), QPointF(left + length, y))
        for x in (left, left + length):
            self.p.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
        self._text(QPointF(left + length + 8, y - 9), self.units.length_words(0.1), "soft_ink", 80)

    # Hands

    def _grip(self, grip: Handle, held: bool, hover: bool) -> None:
        p, place = self.p, self.at.point(grip.x_m, grip.height_m)
        warm = grip.key.startswith("flash")
        p.setPen(QPen(self.theme.colour("light" if warm else "ink"), 2.4 if held or hover else 1.4))
        p.setBrush(self.theme.colour("air"))
        p.drawEllipse(place, 6, 6)
        p.setPen(QPen(self.theme.colour("ink"), 1.4))
        for towards, wanted in ((QPointF(1, 0), grip.across), (QPointF(0, 1), grip.up)):
            if wanted:
                p.drawLine(place - towards * 3, place + towards * 3)
        if held:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(self.theme.colour("ink"), 2))
            p.drawEllipse(place, 11, 11)
        if (hover or held) and grip.key not in NAMED and not warm:
            self._text(place + QPointF(14, -24), grip.name, "ink", 160, bold=True)

    def _clear(self, spot: QPointF, index: int) -> QPointF:
        """Return the middle of a mark beside a spot, where it covers neither words nor another mark."""
        usual = spot + QPointF(-20 + 22 * index, 24)
        ring = [QPointF(-20, -24), QPointF(20, 24), QPointF(20, -24), QPointF(0, 44), QPointF(0, -44), QPointF(-44, 0)]
        further = [spot + QPointF(0, sign * away) for away in range(60, 200, 20) for sign in (1, -1)]
        within = self.room.adjusted(12, 12, -12, -12)
        for centre in (usual, *(spot + offset for offset in ring), *further):
            centre = QPointF(
                min(max(centre.x(), within.left()), within.right()), min(max(centre.y(), within.top()), within.bottom())
            )
            room = QRectF(centre.x() - 10, centre.y() - 10, 20, 20)
            if not any(room.intersects(taken) for taken in self.written):
                self.written.append(room)
                return centre
        return usual

    def _mark(self, place: str, number: int, grips: list[Handle], index: int) -> None:
        """A number at the place that a sentence below speaks of."""
        spots = {"bowl": (self.setup.bowl.diameter_m * 0.30, -self.setup.bowl.depth_m / 2), "water": (-0.02, 0.0)}
        found = next(((g.x_m, g.height_m) for g in grips if g.key == place), spots.get(place, (0.0, 0.0)))
        centre = self._clear(self.at.point(*found), index)
        p = self.p
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.colour("ink"))
        p.drawEllipse(centre, 9, 9)
        p.setFont(font(SMALL_PX, bold=True))
        p.setPen(self.theme.colour("air"))
        p.drawText(QRectF(centre.x() - 9, centre.y() - 9, 18, 18), Qt.AlignmentFlag.AlignCenter, str(number))
