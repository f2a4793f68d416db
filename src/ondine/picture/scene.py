"""What stands before the camera at one instant, in millimetres: x to the right, y away from the camera, z up."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass
class Pool:
    """The water around an axis: a crater bowl and one outgoing packet of ripples."""

    crater_depth: float = 0.0
    crater_radius: float = 1.0
    ripple_height: float = 0.0
    ripple_length: float = 6.0
    ripple_front: float = 0.0
    ripple_width: float = 20.0


@dataclass
class Column:
    """The jet: from the pool to `top`, thick at the base, necked under its tip, with a bead that may have let go."""

    top: float = 0.0
    base_radius: float = 0.0
    tip_radius: float = 0.0
    waist: float = 0.0
    bead_radius: float = 0.0
    bead_height: float = 0.0


@dataclass
class Fingers:
    """What grows out of a rim: `count` fingers of about `length`, each with a bead; a `shed` share has let go."""

    count: int = 0
    length: float = 0.0
    radius: float = 0.3
    shed: float = 0.0
    phase: float = 0.0


@dataclass
class Crown:
    """A thin wall that flares out from `radius` over `height`; `thickness` is half of the wall, `rim` its edge's."""

    radius: float = 0.0
    height: float = 0.0
    flare: float = 0.0
    thickness: float = 0.25
    rim: float = 0.4
    fingers: Fingers = field(default_factory=Fingers)


@dataclass
class Spot:
    """What stands about one axis, at (x, y) from the landing spot of the first valve; `ink` of what fell there."""

    x: float = 0.0
    y: float = 0.0
    pool: Pool = field(default_factory=Pool)
    column: Column = field(default_factory=Column)
    crown: Crown = field(default_factory=Crown)
    ink: int = 0


@dataclass
class Blob:
    """A drop: an ellipsoid of revolution about the vertical. `dye` is how much of the falling liquid it holds, `ink`
    the number of that liquid in the look.
    """

    x: float
    y: float
    z: float
    across: float
    upright: float
    dye: float = 1.0
    ink: int = 0


@dataclass
class Sheet:
    """The umbrella: a thin dome over (x, y) that droops to its rim; `thickness` is half of the film.

    `cap` : how much thicker it is over the column, where the drop has not yet spread; `holes` : how torn it is, 0 to 1.
    """

    height: float
    radius: float
    droop: float
    thickness: float
    rim: float
    cap: float = 0.0
    fingers: Fingers = field(default_factory=Fingers)
    holes: float = 0.0
    x: float = 0.0
    y: float = 0.0
    ink: int = 0


@dataclass
class Scene:
    """All liquid at one instant."""

    spots: list[Spot] = field(default_factory=list)
    blobs: list[Blob] = field(default_factory=list)
    sheets: list[Sheet] = field(default_factory=list)

    def spot(self, x: float = 0.0, y: float = 0.0) -> Spot:
        """Return what stands about an axis, new if nothing did."""
        for one in self.spots:
            if one.x == x and one.y == y:
                return one
        self.spots.append(Spot(x, y))
        return self.spots[-1]
