"""What is wanted on a page, and pages as pictures."""

from __future__ import annotations

import io
from fractions import Fraction
from pathlib import Path

import pytest
from pypdf import PdfReader

from tests.conftest import make_song
from ychronos import cli
from ychronos.formats import pdfchart, project, textchart
from ychronos.formats.options import Options
from ychronos.formats.paper import Paper
from ychronos.formats.pdfpages import Pages
from ychronos.formats.registry import exporter
from ychronos.song import edits
from ychronos.song.model import Song


def sung() -> Song:
    return edits.set_lyric(make_song(), Fraction(8), "low water, low water")[0]


def text_of(data: bytes) -> str:
    return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(data)).pages)


def test_layers_are_there_or_not() -> None:
    song = sung()
    whole = text_of(pdfchart.render(song))
    assert "low water" in whole and "0:01" in whole and "\n5" in whole
    bare = text_of(pdfchart.render(song, words=False, times=False, numbers=False, shapes=False))
    assert "low water" not in bare and "0:01" not in bare and "\n5" not in bare and "Shapes" not in bare
    plain = textchart.render(song, words=False, times=False)
    assert "low water" not in plain and "0:01" not in plain
    assert "low water" in textchart.render(song) and "0:01" in textchart.render(song)


def test_names_are_written_for_one_export_only() -> None:
    song = make_song()
    for one in ("text", "pdf"):
        data = exporter(one).written(song, Options(school="german"))
        text = data.decode() if one == "text" else text_of(data)
        assert "Hm" in text and "Bm" not in text
    assert song.notation == "names"
    with pytest.raises(ValueError, match="names are written as"):
        Options(school="runes")


def test_pages_as_pictures() -> None:
    pages = Pages(pdfchart.render(make_song(), paper=Paper("A5", True)))
    assert len(pages) == 1 and pages.sizes[0] == pytest.approx((595.3, 419.5), abs=0.2)
    picture = pages.picture(0, 72)
    assert (picture.width, picture.height) == (596, 420) and len(picture.data) == picture.stride * picture.height
    grey = [max(picture.data[i : i + 3]) for i in range(0, len(picture.data), 4)]
    assert grey[0] == 255 and min(grey) < 90, "ink on white paper"
    with pytest.raises(ValueError, match="no pages"):
        Pages(b"nothing of the kind")


def test_the_command_line_says_what_is_wanted(tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "s.ychronos"
    project.save(sung(), path)
    assert cli.run(["export", str(path), "--text", "-", "--names", "german", "--no-words", "--no-times"]) == cli.OK
    text = capfd.readouterr().out
    assert "Hm" in text and "low water" not in text and "0:01" not in text
    assert cli.run(["export", str(path), "--text", "-", "--names", "runes"]) == cli.BAD_USE
    assert "names are written as" in capfd.readouterr().err
