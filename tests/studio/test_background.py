import numpy as np
import pytest
from PIL import Image

from ondine.logbook.writing import WriteError
from ondine.studio.background import BackgroundSheet, SheetError, SheetKind, paint_sheet, write_sheet


def test_a_gradient_stands_on_its_head_unless_told_otherwise():
    turned = paint_sheet(BackgroundSheet(foot="#ffffff", head="#000000"), 30, 20)
    upright = paint_sheet(BackgroundSheet(foot="#ffffff", head="#000000", upside_down=False), 30, 20)
    assert turned[0].mean() == 255 and turned[-1].mean() == 0
    assert np.array_equal(turned[::-1, ::-1], upright)
    assert np.all(np.diff(upright[:, 0, 0].astype(int)) >= 0)


def test_bands_have_as_many_colours_and_a_glow_is_round():
    bands = paint_sheet(BackgroundSheet(SheetKind.BANDS, "#102030", "#f0e0d0", 7), 10, 700)
    assert len(np.unique(bands.reshape(-1, 3), axis=0)) == 7
    glow = paint_sheet(BackgroundSheet(SheetKind.GLOW, "#ffffff", "#000000"), 101, 101)
    assert glow[50, 50].mean() > 250 and glow[50, 0].mean() < 60
    assert abs(int(glow[50, 10, 0]) - int(glow[10, 50, 0])) < 3
    with pytest.raises(SheetError, match="2 to 60 bands"):
        paint_sheet(BackgroundSheet(SheetKind.BANDS, bands=1), 10, 10)


def test_a_picture_fills_the_sheet_upside_down(tmp_path):
    picture = tmp_path / "mill.png"
    pixels = np.zeros((60, 90, 3), np.uint8)
    pixels[:20] = 255
    Image.fromarray(pixels).save(picture)
    sheet = paint_sheet(BackgroundSheet(SheetKind.PICTURE, picture=picture), 90, 60)
    assert sheet[-5].mean() > 250 > 5 > sheet[5].mean()
    with pytest.raises(SheetError, match="Choose the picture"):
        paint_sheet(BackgroundSheet(SheetKind.PICTURE), 10, 10)
    (tmp_path / "no.png").write_text("no")
    with pytest.raises(SheetError, match="cannot be read"):
        paint_sheet(BackgroundSheet(SheetKind.PICTURE, picture=tmp_path / "no.png"), 10, 10)


@pytest.mark.parametrize("name", ["sheet.png", "sheet.pdf"])
def test_a_sheet_prints_at_its_true_size(tmp_path, name):
    path = tmp_path / name
    write_sheet(BackgroundSheet(), (0.20, 0.10), path)
    if name.endswith("png"):
        with Image.open(path) as image:
            dots = image.info["dpi"][0]
            assert image.width / dots * 25.4 == pytest.approx(200, rel=0.01)
    else:
        # A PDF's page is measured in points, 72 to the inch (ISO 32000).
        text = path.read_bytes().decode("latin-1")
        box = text[text.index("/MediaBox") :].split("[")[1].split("]")[0].split()
        assert float(box[2]) / 72 * 25.4 == pytest.approx(200, rel=0.01)


def test_a_sheet_that_cannot_be_written(tmp_path):
    with pytest.raises(WriteError, match=r"must end in \.png or \.pdf"):
        write_sheet(BackgroundSheet(), (0.2, 0.1), tmp_path / "sheet.gif")
    with pytest.raises(WriteError, match="cannot be written"):
        write_sheet(BackgroundSheet(), (0.2, 0.1), tmp_path / "none" / "sheet.png")
