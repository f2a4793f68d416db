"""The report of a sitting as a PDF, read by another program."""

import unicodedata
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pypdf
import pytest

from ondine.cli import main
from ondine.core.setup import BenchKind
from ondine.core.timing.sequence import FlashPulse
from ondine.demo.scenario import SEASON
from ondine.logbook.errors import LogbookError
from ondine.logbook.intake import read_picture
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.logbook.writing import WriteError
from ondine.studio.sitting_report import report_of, sitting_named
from ondine.ui.log.report_pdf import write_report
from tests.calibrated import IN_HAND

AT = datetime(2026, 5, 9, 18, 0, tzinfo=UTC)


def past(n: int, sitting: str = "Dusk", bench: BenchKind = BenchKind.BY_HAND) -> PastShot:
    sequence = replace(IN_HAND.sequence, flashes=(FlashPulse(350_000 + 1000 * (n % 3)),))
    shapes = ("full-umbrella",) if n % 3 == 1 else ("contact",) if n % 3 == 2 else ()
    picture = read_picture(SEASON / f"{60 + n:03d}.jpg") if n < 6 else None
    return PastShot(
        sitting, AT + timedelta(minutes=n), replace(IN_HAND, sequence=sequence), shapes, 4 if n == 1 else 0,
        "height 23 mm <b>&amp;" if n % 2 else "", picture, "Mill loft", 19.0, bench, keeper=n == 1,
    )  # fmt: skip


@pytest.fixture
def season(tmp_path):
    book = Logbook.open(tmp_path / "log.ondine")
    book.shots.add_history([past(n) for n in range(14)])
    book.shots.add_history([past(20 + n, "Later", BenchKind.SIMULATED) for n in range(2)])
    yield book
    book.close()


def text_of(path) -> list[str]:
    # The shipped font has one glyph for tabs and blanks: whichever comes out parts words.
    pages = [page.extract_text() for page in pypdf.PdfReader(path).pages]
    return [" ".join(unicodedata.normalize("NFKC", page).split()) for page in pages]


def test_a_report_holds_table_shapes_course_timings_and_pictures(season, tmp_path, qapp):
    report = report_of(season, 1)
    assert report.goal == "full-umbrella" and [shot.id for shot in report.best] == [2]
    assert [(t.count, t.known, t.hits) for t in report.timings] == [(5, 5, 5), (5, 0, 0), (4, 4, 0)]
    out, seen = tmp_path / "report.pdf", []
    assert write_report(report, out, lambda done, of: seen.append((done, of)))
    pages = text_of(out)
    front = pages[0]
    for words in ("Dusk", "14 shots, 9 tagged, 1 kept", "Mill loft, 19 °C in the room", "365 mm", "full umbrella", "contact",
                  "Hits: full umbrella", "Height off the pictures", "Fallen into the bowl", "95 · flash 351 ms"):  # fmt: skip
        assert words in front, words
    whole = "\n".join(pages)
    # What was typed is text, never markup.
    assert "height 23 mm <b>&amp;" in whole and "Shot 2" in whole and "14 " in whole and "Simulated" not in whole
    reader = pypdf.PdfReader(out)
    assert sum(len(page.images) for page in reader.pages) == 1 + 6
    assert all(
        abs(float(page.mediabox.width) - 595) < 2 and abs(float(page.mediabox.height) - 842) < 2
        for page in reader.pages
    )
    assert "Dusk" in reader.metadata.title and seen[-1] == (15, 15)


def test_every_page_of_a_simulated_sitting_says_so(season, tmp_path, qapp):
    out = tmp_path / "report.pdf"
    write_report(report_of(season, 2), out)
    assert all("Simulated: no water fell" in page for page in text_of(out))


def test_it_is_cancelled_between_pictures_and_leaves_nothing(season, tmp_path, qapp):
    out, asked = tmp_path / "report.pdf", []
    assert not write_report(report_of(season, 1), out, is_cancelled=lambda: asked.append(1) or len(asked) > 3)
    assert not out.exists() and len(list(tmp_path.glob("*.pdf*"))) == 0
    with pytest.raises(WriteError):
        write_report(report_of(season, 1), tmp_path / "report.txt")


def test_sittings_are_named_by_number_or_name(season):
    assert sitting_named(season, "") == 2 and sitting_named(season, "dusk") == 1 and sitting_named(season, "2") == 2
    with pytest.raises(LogbookError, match="1: Dusk, 2026-05-09, 14 shots"):
        sitting_named(season, "nowhere")
    with pytest.raises(LogbookError, match="no shots"):
        report_of(season, 99)


def test_two_sittings_of_one_name_are_told_apart(season):
    season.shots.add_history([past(40, "Dusk")])
    with pytest.raises(LogbookError, match="give its number"):
        sitting_named(season, "Dusk")


def test_the_report_from_a_shell(season, tmp_path, capsys, monkeypatch, qapp):
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    path = season.path
    season.close()
    out = tmp_path / "report.pdf"
    assert main(["report", str(path), "--pdf", str(out), "--sitting", "Dusk"]) == 0
    assert "Dusk, 14 shots" in capsys.readouterr().out and len(text_of(out)) >= 2
    assert main(["report", str(path), "--pdf", str(tmp_path / "x.txt")]) == 2
    assert main(["report", str(path), "--pdf", str(out), "--sitting", "nowhere"]) == 2
    assert "no sitting" in capsys.readouterr().err
