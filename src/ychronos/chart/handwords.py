"""Hands in words: what a capo brings, what a level leaves hard, what is to be known of one shape."""

from __future__ import annotations

from collections.abc import Sequence

from ..guitar.fingering import Shape, finger
from ..guitar.hands import Held, level_of
from ..guitar.instrument import GuitarSetup
from ..guitar.naming import same_notes
from ..guitar.setups import Choice
from ..song.model import Song
from ..song.words import plural
from ..theory.notation import key_text
from ..tongue import sentence, tr
from .used import Used, remarks

SPEAKS = 0.25  # share from which on the record (or the hand) speaks for a capo
LITTLE = 0.05  # below it what the record says does not order them
HARD_ONES = 3  # named in a row


def choice_words(song: Song, choice: Choice, among: Sequence[Choice]) -> tuple[str, str]:
    """Two lines: ``Capo 3 · shapes of G major``, ``no barre · the record speaks for it``."""
    guitar = GuitarSetup(choice.strings, choice.capo, moved=song.guitar.moved)
    where = tr("Capo {capo}", capo=choice.capo) if choice.capo else tr("No capo")
    if len({c.strings for c in among}) > 1:
        where = f"{sentence(tr(guitar.tuning_name))}, {tr('capo {capo}', capo=choice.capo) if choice.capo else tr('no capo')}"
    first = tr("{where} · {key} shapes", where=where, key=key_text(guitar.shape_key(song.main_key()), song.notation))
    parts = []
    if choice.heard is not None and choice.share >= 0.02:
        parts.append(
            tr("the record says so ({share:.0%})", share=choice.share)
            if choice.share >= SPEAKS
            else tr("heard {share:.0%}", share=choice.share)
        )
    parts.append(tr("no barre") if not choice.barres else plural(choice.barres, "barre chord", "barre chords"))
    names = []
    for chord, _ in choice.hard[:HARD_ONES]:
        index = next((i for i, s in enumerate(song.chords) if s.chord.transposed(song.guitar.moved) == chord), None)
        if index is not None:
            names.append(song.shape_name_on(guitar, index))
    if names:
        parts.append(tr("hard: ") + ", ".join(dict.fromkeys(names)))
    return first, " · ".join(parts)


def in_order(found: Sequence[Choice]) -> list[Choice]:
    """Setups as they are shown: first those that the record speaks for, then the easiest for the hand."""
    heard = [c for c in found if c.heard is not None and c.share >= LITTLE]
    rest = [c for c in found if c not in heard]
    return heard + sorted(rest, key=lambda c: -c.ease)


def level_words(song: Song, shapes: Sequence[Used], lost: Sequence[str], guitar: GuitarSetup) -> str:
    """What a level keeps and what it loses, for the whole song."""
    level = level_of(guitar.level)
    barres = sum(u.held.barre >= 4 for u in shapes)
    wide = sum(u.held.wide for u in shapes)
    parts = [level.tip.rstrip(".")]
    if level.barre > 2:
        parts.append(tr("no barre") if not barres else plural(barres, "barre chord", "barre chords"))
    if wide:
        parts.append(
            tr(
                "{stretches}: warm up, and rest when it hurts",
                stretches=plural(wide, "wide stretch", "wide stretches"),
            )
        )
    without = [u for u in shapes if u.held.lost]
    if without:
        names = [
            tr("{title} without ", title=u.title)
            + tr(" and ").join(song.shape_note_on(guitar, u.first, n) for n in sorted(u.held.lost))
            for u in without[:3]
        ]
        more = tr(" and {count} more", count=len(without) - 3) if len(without) > 3 else ""
        parts.append(tr("simpler: ") + ", ".join(names) + more)
    parts += lost
    return " · ".join(parts)


def handed_words(song: Song, one: Used, shape: Shape, guitar: GuitarSetup) -> str:
    """What is to be known of one way to hold a chord."""
    found = finger(shape)
    held = Held(
        shape,
        0.0,
        found.barre.strings if found and found.barre else 0,
        bool(found and found.wide),
        one.held.played,
        frozenset(),
        one.held.stated and shape == one.held.shape,
    )
    words = remarks(song, Used(one.name, held, one.first, one.times), guitar)
    notes = [s + guitar.capo + f for s, f in zip(guitar.strings, shape, strict=True) if f is not None]
    if notes:
        words.append(tr("{shape_note_on} on top", shape_note_on=song.shape_note_on(guitar, one.first, max(notes) % 12)))
    chord = song.chords[one.first].chord.transposed(guitar.moved)
    if song.heard.knows(chord) and not guitar.moved:
        words.append(tr("agrees with the record") if _agrees(song, one, shape, guitar) else tr("less like the record"))
    return ", ".join(words)


def same_words(song: Song, one: Used, guitar: GuitarSetup) -> str:
    """``the same notes: Am7/C``: what else the notes of a chord are called, as a shape; "" where they have one name."""
    span = song.chords[one.first]
    others = [song.shape_name_of(guitar, c, span.start) for c in same_notes(span.chord, song.key_at(span.start))[:2]]
    return tr("the same notes: {others}", others=", ".join(others)) if others else ""


def _agrees(song: Song, one: Used, shape: Shape, guitar: GuitarSetup) -> bool:
    """Whether the record speaks for a shape about as much as for the one in use."""
    chord = song.chords[one.first].chord

    def said(s: Shape) -> float:
        return song.heard(chord, [x + guitar.capo + f for x, f in zip(guitar.strings, s, strict=True) if f is not None])

    return said(shape) >= said(one.held.shape) - 0.5
