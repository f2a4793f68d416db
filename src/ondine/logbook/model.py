"""The tables of the logbook."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import ForeignKey, Index, String, TypeDecorator, true
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from ondine.core.setup import BenchKind
from ondine.logbook.records import time_of


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
        return value.astimezone(UTC).replace(tzinfo=None).isoformat(" ", "microseconds")

    def process_result_value(self, value: str | None, dialect: object) -> datetime | None:
        """Give it back in UTC; None for what is no time, so that one bad row does not hide the others."""
        return time_of(value)


class Base(DeclarativeBase):
    """All tables of the logbook."""


class SetupRevision(Base):
    """A set-up, addressed by its content; never changed."""

    __tablename__ = "setup_revision"

    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    content: Mapped[str]


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
    sitting: Mapped[Sitting] = relationship(back_populates="shots")
    setup: Mapped[SetupRevision] = relationship()
    belief: Mapped[BeliefRevision] = relationship()
    tags: Mapped[list[Tag]] = relationship(back_populates="shot", cascade="all, delete-orphan")
    pictures: Mapped[list[Picture]] = relationship(back_populates="shot", order_by="Picture.id")


class Tag(Base):
    """A shape seen in a shot's picture."""

    __tablename__ = "tag"

    shot_id: Mapped[int] = mapped_column(ForeignKey("shot.id"), primary_key=True)
    shape: Mapped[str] = mapped_column(primary_key=True)
    shot: Mapped[Shot] = relationship(back_populates="tags")


class Picture(Base):
    """A picture kept by reference: its file stays where the camera put it. Without a shot it is unpaired; unless it is
    `sure`, whether it is that shot's is a question.
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
    shot: Mapped[Shot | None] = relationship(back_populates="pictures")


class StateEntry(Base):
    """What was in hand and chosen: sequence, set-up, belief, theme, so that a restart goes on where one was."""

    __tablename__ = "state"

    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]


Index("tag_shape", Tag.shape)
