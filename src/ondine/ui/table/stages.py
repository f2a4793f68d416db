"""The stages of the work, in their order: the one list that edge, page, command line and pictures read. No Qt."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Stage:
    """A stage of the work: its key in the window, its word on the edge, what it is for.

    A stage that is `drawn` has the rig's drawing for its figure, and the waterline runs through it.
    """

    key: str
    word: str
    does: str
    drawn: bool = False


STAGES = (
    Stage("safe", "Safe", "Wet-work checklist and cautions", drawn=True),
    Stage("rig", "Rig", "Where everything stands", drawn=True),
    Stage("valve", "Valve", "Flow, weighing, priming"),
    Stage("liquid", "Liquid", "What falls, and into what"),
    Stage("frame", "Frame", "Camera, lens, framing, focus"),
    Stage("flash", "Flash", "The units, how long they flash, how soon they are ready again"),
    Stage("freeze", "Freeze", "Which power stops the instant"),
    Stage("expose", "Expose", "From a test frame to the right exposure"),
    Stage("colour", "Colour", "White balance, contrast, background sheet"),
    Stage("trigger", "Trigger", "What fires what, and how late"),
    Stage("dials", "Dials", "A box with dials"),
    Stage("keep", "Keep", "Set-ups and sittings"),
)

BY_KEY = {stage.key: stage for stage in STAGES}
