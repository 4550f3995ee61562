"""What the hands do, as truth: capo, voicings, strokes, bass and lines of a performance (NAME.play.json).

Frets are counted from the nut, lowest string first, so that tuning + fret sounds; times are seconds of the written
file. The format is described in README.md beside make_song.py.
"""
import numpy as np

from .theory import TUNINGS, fretted

POSITIONS = 16  # places in a bar that strokes are named by
BASS_STRINGS = (28, 33, 38, 43)


def _part_name(part, number):
    return f"gtr{number}" if number else "gtr"


def _strings_of(notes, tuning):
    """[(string, fret)] of a line by least movement: open and low positions first."""
    out, hand = [], 3
    for note in notes:
        places = [(s, note.pitch - t) for s, t in enumerate(tuning) if 0 <= note.pitch - t <= 22]
        if not places:
            out.append((0, max(0, note.pitch - tuning[0])))
            continue
        string, fret = min(places, key=lambda p: (abs((p[1] or hand) - hand), p[1]))
        hand = fret or hand
        out.append((string, fret))
    return out


def _line(track, tuning, ratio, duration):
    notes = sorted(track.notes, key=lambda n: (n.start, n.pitch))
    rows = []
    for note, (string, fret) in zip(notes, _strings_of(notes, tuning)):
        at = note.start / ratio
        if at < duration:
            rows.append({"time": round(at, 5), "duration": round((note.end - note.start) / ratio, 5),
                         "midi": note.pitch, "string": string, "fret": fret})
    return rows


def build_play(timeline, players, ratio, duration):
    """The truth as a dictionary; `players` are those of parts.perform, in the order of the band."""
    spec = timeline.spec
    tuning, capo = TUNINGS[spec.get("guitar_tuning", "standard")], spec.get("capo", 0)
    out = {"capo": capo, "tuning": list(tuning), "voicings": [], "strums": [], "bass": [], "lead": [], "vocals": []}
    guitars = [p for p in players if p.part["role"] == "guitar"]
    for number, player in enumerate(guitars[:2]):
        name = _part_name(player.part, number)
        if not number:
            name = "gtr"
        spans = {id(hit[2]): hit[2] for hit in player.played}
        for span in spans.values():
            at = timeline.time(span.start) / ratio
            if span.label != "N" and at < duration:
                frets = fretted(player.voicing(span.label), tuning)
                out["voicings"].append({"time": round(at, 5), "chord": span.label, "frets": frets, "part": name})
        for at, slot, q, bar in player.strokes:
            seconds = at / ratio
            if slot in "DdUux" and seconds < duration:
                place = round((q - bar.start) / max(1e-9, bar.end - bar.start) * POSITIONS)
                out["strums"].append({"time": round(seconds, 5), "bar": bar.measure, "pos": f"{place}/{POSITIONS}",
                                      "dir": "U" if slot in "Uu" else "D", "muted": slot == "x", "part": name,
                                      "strength": {"D": 1.0, "U": 0.85, "d": 0.6, "u": 0.5, "x": 0.3}[slot]})
    for player in players:
        if player.part["role"] == "bass":
            out["bass"] += _line(player.track, BASS_STRINGS, ratio, duration)
        elif player.part["role"] == "riff":
            out["lead"] += _line(player.track, tuning, ratio, duration)
        elif player.part["role"] == "lead" and not out["vocals"] and not player.part.get("fills"):
            out["vocals"] = [{"time": n["time"], "duration": n["duration"], "midi": n["midi"], "word": ""}
                             for n in _line(player.track, tuning, ratio, duration)]
    for key in ("voicings", "strums", "bass", "lead", "vocals"):
        out[key].sort(key=lambda row: row["time"])
    return out
