"""The flight chart as a file that other programs open."""

import pypdf
import pytest
from lxml import etree
from PIL import Image

from ondine.logbook.writing import WriteError
from ondine.ui.bench.chart_file import SHARPER, write_chart


def test_svg_holds_lines_and_words(bench, tmp_path):
    chart, out = bench.window.bench.chart, tmp_path / "chart.svg"
    write_chart(chart, out, "Mill")
    root = etree.parse(str(out)).getroot()
    name = etree.QName(root)
    assert name.localname == "svg" and name.namespace == "http://www.w3.org/2000/svg"
    words = "".join(root.itertext())
    assert "nozzle 365 mm" in words and "valve" in words and "flash" in words
    paths = [e for e in root.iter() if etree.QName(e).localname in ("path", "polyline", "line")]
    assert len(paths) > 20 and not [e for e in root.iter() if etree.QName(e).localname == "image"]


def test_pdf_holds_text_on_one_page_of_the_chart_s_size(bench, tmp_path):
    chart, out = bench.window.bench.chart, tmp_path / "chart.pdf"
    write_chart(chart, out, "Mill")
    (page,) = pypdf.PdfReader(out).pages
    assert float(page.mediabox.width) == pytest.approx(chart.width() * 72 / 96, abs=1)
    assert "nozzle" in page.extract_text() and not page.images


def test_png_is_sharper_than_the_screen_and_of_the_day_in_the_dark_room_too(bench, tmp_path):
    window = bench.window
    chart, day, dark = window.bench.chart, tmp_path / "day.png", tmp_path / "dark.png"
    write_chart(chart, day, "Mill")
    window.toggle_theme()
    write_chart(chart, dark, "Mill")
    assert day.read_bytes() == dark.read_bytes()
    with Image.open(day) as image:
        assert image.size == (chart.width() * SHARPER, chart.height() * SHARPER)
        assert len(image.getcolors(1 << 24)) > 20


@pytest.mark.parametrize("name", ["chart.jpg", "chart", "none/chart.svg"])
def test_a_place_that_is_none_is_a_sentence(bench, tmp_path, name):
    with pytest.raises(WriteError):
        write_chart(bench.window.bench.chart, tmp_path / name, "Mill")
    assert not list(tmp_path.glob("chart*"))
