"""The stages of the work, in their order: the one list that edge, page, command line and pictures read. No Qt."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Stage:
    """A stage of the work: its key in the window and its word on the edge."""

    key: str
    word: str
    does: str


STAGES = (
    Stage("safe", "Safe", "Wet-work checklist and cautions"),
    Stage("rig", "Rig", "Where everything stands"),
    Stage("valve", "Valve", "Flow, weighing, priming"),
    Stage("liquid", "Liquid", "What falls, and into what"),
    Stage("frame", "Frame", "Camera, lens, framing, focus"),
    Stage("flash", "Flash", "The units, how long they shine, how soon they are ready"),
    Stage("freeze", "Freeze", "Which power stops the instant"),
    Stage("expose", "Expose", "From a test frame to the right exposure"),
    Stage("colour", "Colour", "White balance, contrast, background sheet"),
    Stage("trigger", "Trigger", "Who fires whom, and how late"),
    Stage("dials", "Dials", "A box that a hand dials"),
    Stage("keep", "Keep", "Set-ups and sittings"),
)
