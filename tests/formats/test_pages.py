"""What is wanted on a page, and pages as pictures."""

from __future__ import annotations

import io
import subprocess
import sys
from dataclasses import replace
from fractions import Fraction
from importlib import resources
from itertools import pairwise
from pathlib import Path

import pytest
from pypdf import PdfReader

from tests.conftest import make_song
from ychronos import cli
from ychronos.chart.counts import beats_of, counts_text, number
from ychronos.formats import pdfchart, pdffonts, project, textchart
from ychronos.formats.options import Options
from ychronos.formats.paper import Paper
from ychronos.formats.pdfpages import Pages
from ychronos.formats.registry import exporter
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.theory.chord import QUALITIES, ChordError, parse_chord
from ychronos.theory.notation import SCHOOLS


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


class Seen:
    """What is written on pages: (page, x, y, width, size, text) of names of chords."""

    def __init__(self, data: bytes) -> None:
        self.names: list[tuple[int, float, float, float, float, str]] = []
        for sheet, page in enumerate(PdfReader(io.BytesIO(data)).pages):
            page.extract_text(visitor_text=lambda text, cm, tm, font, size, sheet=sheet: self.see(sheet, text, cm, tm, font, size))  # fmt: skip

    def see(
        self, page: int, text: str, cm: list[float], tm: list[float], font: dict[str, str] | None, size: float
    ) -> None:
        if font and "Bold" in font.get("/BaseFont", "") and text.strip():
            text = text.rstrip("\n")
            self.names.append((page, tm[4] * cm[0], tm[5] * cm[3], pdffonts.width(text, pdffonts.BOLD, size) * cm[0], size * cm[0], text))  # fmt: skip


def _readable(text: str) -> bool:
    try:
        parse_chord(text)
    except ChordError:
        return False
    return True


WIDEST = [
    parse_chord(f"{root}{tail}{bass}")
    for tail in (*(q.suffix for q in QUALITIES.values()), "7b9#11b13", "maj9#11")
    for root, bass in (("Gb", "/Bb"), ("F#", ""))
    if _readable(f"{root}{tail}{bass}")
]


@pytest.mark.parametrize("school", sorted(SCHOOLS))
@pytest.mark.parametrize(("per_row", "paper"), [(4, Paper()), (8, Paper("A5", scale=1.3)), (4, Paper("A4", columns=2))])
def test_no_name_lies_on_another_at_any_length(school: str, per_row: int, paper: Paper) -> None:
    """Every quality that the model can write, with a bass, four to a bar, in every school."""
    song = make_song(bars=max(8, len(WIDEST) // 4 + 1))
    for k, chord in enumerate(WIDEST):
        song, _ = edits.state_chord(song, Fraction(k), Fraction(k + 1), chord)
    data = pdfchart.render(replace(song, notation=school), per_row=per_row, paper=paper, shapes=False, folded=False)
    seen = Seen(data)
    written = {song.chord_name(i) for i in range(len(WIDEST))} if school == "names" else set()
    assert written <= {text.removesuffix("?").removesuffix("◊") for *_, text in seen.names}
    rows: dict[tuple[int, float], list[tuple[float, float, float]]] = {}
    for page, x, y, wide, size, _ in seen.names:
        rows.setdefault((page, round(y, 1)), []).append((x, x + wide, size))
    for (page, y), names in rows.items():
        names.sort()
        for one, two in pairwise(names):
            assert one[1] <= two[0] + 0.3, (page, y, one, two)
        assert names[-1][1] <= paper.points[0] - 20, "nothing leaves the page"


def test_names_of_a_row_have_one_size() -> None:
    song = make_song("G D/F# Em7 Cmaj7", bars=8)
    song, _ = edits.state_chord(song, Fraction(4), Fraction(5), parse_chord("F#m7b5"))
    song, _ = edits.state_chord(song, Fraction(5), Fraction(6), parse_chord("Bbmaj7/D"))
    seen = Seen(pdfchart.render(song, shapes=False, folded=False))
    row = next(y for _, _, y, _, _, text in seen.names if text == "F♯ø7")
    sizes = {round(size, 3) for _, x, y, _, size, _ in seen.names if abs(y - row) < 14 and x > 130}
    assert len(sizes) == 1 and min(sizes) > 6


def test_a_section_is_not_torn_and_no_row_stands_alone() -> None:
    song = make_song("G D/F# Em7 C G Am7 C D7 Em", bars=96)
    for bar in (b for b in range(12, 96, 12) if b != 48):
        song, _ = edits.start_section(song, song.grid.bar_range(bar)[0], f"Part {bar}")
    data = pdfchart.render(song, folded=False, shapes=False)
    pages = PdfReader(io.BytesIO(data)).pages
    assert len(pages) > 1
    for page in pages:
        numbers = [int(x) for x in page.extract_text().split("\n") if x.strip().isdigit()]
        firsts = [n for n in numbers if (n - 1) % 4 == 0]
        assert not firsts or (firsts[0] - 1) % 12 == 0, "a page begins with a section of three rows"


def test_letters_that_the_font_lacks_are_found_or_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(pdffonts, "_found", tuple)
    pdffonts.font_for.cache_clear()
    assert [p for p, _ in pdffonts.runs("灯台 Light", pdffonts.BOLD)] == [
        f"{pdffonts.MISSING * 2} Light"
    ] or "?" in next(p for p, _ in pdffonts.runs("灯台 Light", pdffonts.BOLD))
    text = text_of(pdfchart.render(replace(make_song(), title="Λιμάνι · Гавань")))
    assert "Λιμάνι · Гавань" in text
    pdffonts.font_for.cache_clear()


def test_letters_of_other_scripts_come_from_fonts_of_the_system(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A font is looked for in the folders of the system; one that cannot be embedded is passed over."""
    (tmp_path / "broken-noto.ttf").write_bytes(b"no font at all")
    shipped = Path(str(resources.files("ychronos").joinpath("fonts/GentiumBookPlus-Regular.ttf")))
    (tmp_path / "other.ttf").write_bytes(shipped.read_bytes())
    monkeypatch.setattr(pdffonts, "FOLDERS", (tmp_path,))
    pdffonts._found.cache_clear()
    pdffonts.font_for.cache_clear()
    try:
        assert pdffonts.font_for("Ж").endswith("other.ttf") and pdffonts.font_for("灯") == ""
    finally:
        pdffonts._found.cache_clear()
        pdffonts.font_for.cache_clear()


def test_papers_in_two_columns_are_shorter() -> None:
    song = make_song("G D/F# Em7 C G Am7 C D7 Em", bars=140)
    pages = [len(PdfReader(io.BytesIO(pdfchart.render(song, folded=False, per_row=2, paper=p))).pages)
             for p in (Paper(), Paper(columns=2))]  # fmt: skip
    assert pages[1] < pages[0]
    text = text_of(pdfchart.render(song, folded=False, paper=Paper(columns=2)))
    assert "Verse" in text and "Chorus" in text and "0:01" in text


def test_counts_add_up_to_the_bars_and_are_there_if_wanted() -> None:
    song = make_song("G D/F# Em7 C", bars=8)
    song, _ = edits.state_chord(song, Fraction(6), Fraction(19, 2), parse_chord("Am"))
    found = beats_of(song, range(8))
    assert sum(b for _, b in found) == 32
    assert counts_text(song, range(0, 4)) == "G 4 · D/F♯ 2 · Am 3½ · Em7 2½ · C 4"
    assert counts_text(song, range(0, 4), True) == "G 4 - D/F# 2 - Am 3.5 - Em7 2.5 - C 4"
    assert number(Fraction(1, 3)) == "⅓" and number(Fraction(17, 5)) == "3.4"
    for written in (
        textchart.render(song, counts=True, folded=False),
        text_of(pdfchart.render(song, counts=True, folded=False)),
    ):
        assert "Am 3½ · Em7 2½" in written
    assert "Am 3½" not in textchart.render(song)


def test_two_pages_at_once_are_the_first_to_want_the_fonts():
    """The page on the screen and an export are made in two threads: neither meets fonts that are half known."""
    script = """
import threading
from ychronos.formats import pdffonts
lacking = []
def wants():
    try:
        pdffonts.width("Harbour", pdffonts.ITALIC, 10)
    except KeyError as error:
        lacking.append(error)
threads = [threading.Thread(target=wants) for _ in range(8)]
[t.start() for t in threads], [t.join() for t in threads]
raise SystemExit(len(lacking))
"""
    assert subprocess.run([sys.executable, "-c", script], check=False).returncode == 0


def test_one_page_is_looked_at_while_another_is_printed(tmp_path: Path):
    """Pages are drawn in several threads; the library that draws them takes one at a time and dies of two."""
    made = tmp_path / "page.pdf"
    made.write_bytes(pdfchart.render(make_song(), paper=Paper("A5", True)))
    script = """
import sys, threading
from ychronos.formats.pdfpages import Pages
data = open(sys.argv[1], "rb").read()
first, seen = Pages(data).picture(0, 36), []
def draws():
    for _ in range(60):
        seen.append(Pages(data).picture(0, 36) == first)
threads = [threading.Thread(target=draws) for _ in range(4)]
[t.start() for t in threads], [t.join() for t in threads]
raise SystemExit(len(seen) != 240 or not all(seen))
"""
    assert subprocess.run([sys.executable, "-c", script, str(made)], check=False).returncode == 0
