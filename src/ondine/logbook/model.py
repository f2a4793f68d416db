"""The tables of the logbook."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, Index, String, TypeDecorator, false, true
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from ondine.core.setup import BenchKind
from ondine.logbook.records import stored_time, time_of


class UtcDateTime(TypeDecorator[datetime]):
    """A point in time: stored as text in UTC, which sorts as time does; read back with its zone."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: object) -> str | None:
        """Store in UTC; a time without a zone is refused rather than guessed."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("A time for the logbook needs its zone.")
        return stored_time(value)

    def process_result_value(self, value: str | None, dialect: object) -> datetime | None:
        """Give it back in UTC; None for what is no time, so that one bad row does not hide the others."""
        return time_of(value)


class Base(DeclarativeBase):
    """All tables of the logbook."""


class SetupRevision(Base):
    """A set-up, addressed by its content; never changed. `words`: what it is found by."""

    __tablename__ = "setup_revision"

    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    content: Mapped[str]
    words: Mapped[str] = mapped_column(default="", server_default="")


class BeliefRevision(Base):
    """What was believed of a rig, addressed by its content; never changed."""

    __tablename__ = "belief_revision"

    id: Mapped[str] = mapped_column(primary_key=True)
    content: Mapped[str]


class KeptSetup(Base):
    """A set-up that was given a name, to come back to."""

    __tablename__ = "kept_setup"

    name: Mapped[str] = mapped_column(primary_key=True)
    setup_id: Mapped[str] = mapped_column(ForeignKey("setup_revision.id"))
    belief_id: Mapped[str] = mapped_column(ForeignKey("belief_revision.id"))
    kept_at: Mapped[datetime] = mapped_column(UtcDateTime)
    setup: Mapped[SetupRevision] = relationship()
    belief: Mapped[BeliefRevision] = relationship()


class Sitting(Base):
    """A stretch of work at one table."""

    __tablename__ = "sitting"

    id: Mapped[int] = mapped_column(primary_key=True)
    started_at: Mapped[datetime] = mapped_column(UtcDateTime)
    name: Mapped[str]
    place: Mapped[str] = mapped_column(default="")
    temperature_c: Mapped[float | None]
    note: Mapped[str] = mapped_column(default="")
    preflight: Mapped[str] = mapped_column(default="")
    shots: Mapped[list[Shot]] = relationship(back_populates="sitting")


class Shot(Base):
    """One firing: written before it fires, completed afterwards."""

    __tablename__ = "shot"

    id: Mapped[int] = mapped_column(primary_key=True)
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id"))
    setup_id: Mapped[str] = mapped_column(ForeignKey("setup_revision.id"))
    belief_id: Mapped[str] = mapped_column(ForeignKey("belief_revision.id"))
    planned_at: Mapped[datetime] = mapped_column(UtcDateTime, index=True)
    fired_at: Mapped[datetime | None] = mapped_column(UtcDateTime)
    state: Mapped[str]
    sequence: Mapped[str]
    head_m: Mapped[float | None]
    flash_reports_us: Mapped[str | None]
    report: Mapped[str] = mapped_column(default="")
    bench: Mapped[str] = mapped_column(default=BenchKind.UNKNOWN.value, server_default=BenchKind.UNKNOWN.value)
    rating: Mapped[int] = mapped_column(default=0)
    note: Mapped[str] = mapped_column(default="")
    keeper: Mapped[bool] = mapped_column(default=False, server_default=false())
    binned_at: Mapped[datetime | None] = mapped_column(UtcDateTime)
    at: Mapped[str] = mapped_column(default="", server_default="")
    sitting: Mapped[Sitting] = relationship(back_populates="shots")
    setup: Mapped[SetupRevision] = relationship()
    belief: Mapped[BeliefRevision] = relationship()
    tags: Mapped[list[Tag]] = relationship(back_populates="shot", cascade="all, delete-orphan")
    labels: Mapped[list[Label]] = relationship(back_populates="shot", cascade="all, delete-orphan")
    pictures: Mapped[list[Picture]] = relationship(back_populates="shot", order_by="Picture.id")


class Tag(Base):
    """A shape seen in a shot's picture."""

    __tablename__ = "tag"

    shot_id: Mapped[int] = mapped_column(ForeignKey("shot.id"), primary_key=True)
    shape: Mapped[str] = mapped_column(primary_key=True)
    shot: Mapped[Shot] = relationship(back_populates="tags")


class Label(Base):
    """A word of the photographer's own on a shot: for which print it is, whom it was shown to."""

    __tablename__ = "label"

    shot_id: Mapped[int] = mapped_column(ForeignKey("shot.id"), primary_key=True)
    word: Mapped[str] = mapped_column(primary_key=True)
    shot: Mapped[Shot] = relationship(back_populates="labels")


class OwnShape(Base):
    """A shape that the photographer added: `key` is what tags hold, `letter` its key on the board, `glyph` how it is
    drawn.
    """

    __tablename__ = "own_shape"

    key: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    letter: Mapped[str] = mapped_column(default="")
    glyph: Mapped[str] = mapped_column(default="")


class SavedSearch(Base):
    """A search that was given a name."""

    __tablename__ = "saved_search"

    name: Mapped[str] = mapped_column(primary_key=True)
    line: Mapped[str]
    saved_at: Mapped[datetime] = mapped_column(UtcDateTime)


class ShotFacts(Base):
    """The figures of a shot (`core.log.facts`), reckoned from what its row holds; `version` says by which reckoning.

    `timing` is the same number for shots of one sequence on one set-up.
    """

    __tablename__ = "shot_facts"

    shot_id: Mapped[int] = mapped_column(ForeignKey("shot.id"), primary_key=True)
    version: Mapped[int]
    timing: Mapped[int]
    drops: Mapped[int]
    interval_ms: Mapped[float | None]
    gap_ms: Mapped[float | None]
    open_ms: Mapped[float | None]
    second_open_ms: Mapped[float | None]
    flash_ms: Mapped[float | None]
    after_touchdown_ms: Mapped[float | None]
    touchdown_sd_ms: Mapped[float | None]
    after_meeting_ms: Mapped[float | None]
    meeting_sd_ms: Mapped[float | None]
    crater_clocks: Mapped[float | None]
    size_ratio: Mapped[float | None]
    diameter_mm: Mapped[float | None]
    height_mm: Mapped[float | None]
    head_mm: Mapped[float | None]
    viscosity_mpa_s: Mapped[float | None]
    temperature_c: Mapped[float | None]
    power: Mapped[float | None]
    f_number: Mapped[float | None]
    iso: Mapped[float | None]
    exposure_ms: Mapped[float | None]


class Picture(Base):
    """A picture kept by reference: its file stays where the camera put it. Without a shot it is unpaired; unless it is
    `sure`, whether it is that shot's is a question.

    `beside_path`, `beside_sha256`: the raw file of the same picture, where the camera wrote both.
    """

    __tablename__ = "picture"

    id: Mapped[int] = mapped_column(primary_key=True)
    shot_id: Mapped[int | None] = mapped_column(ForeignKey("shot.id"), index=True)
    path: Mapped[str]
    sha256: Mapped[str] = mapped_column(unique=True)
    width_px: Mapped[int]
    height_px: Mapped[int]
    taken_at: Mapped[datetime | None] = mapped_column(UtcDateTime)
    arrived_at: Mapped[datetime] = mapped_column(UtcDateTime)
    exposure_s: Mapped[float | None]
    f_number: Mapped[float | None]
    iso: Mapped[int | None]
    focal_length_m: Mapped[float | None]
    sure: Mapped[bool] = mapped_column(default=True, server_default=true())
    beside_path: Mapped[str | None]
    beside_sha256: Mapped[str | None] = mapped_column(index=True)
    shot: Mapped[Shot | None] = relationship(back_populates="pictures")


class Removed(Base):
    """What was removed by hand, so that a merge does not bring it back; written and forgotten by triggers alone.

    `kind`: the table of what was removed, or the column of the shot; `shot_id`: 0 for what belongs to no shot; `word`:
    the tag's shape, the label's word, or the key in its table.
    """

    __tablename__ = "removed"

    kind: Mapped[str] = mapped_column(primary_key=True)
    shot_id: Mapped[int] = mapped_column(primary_key=True)
    word: Mapped[str] = mapped_column(primary_key=True)


class StateEntry(Base):
    """What was in hand and chosen: sequence, set-up, belief, theme, so that a restart goes on where one was."""

    __tablename__ = "state"

    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]


Index("tag_by_shape", Tag.shape, Tag.shot_id)
