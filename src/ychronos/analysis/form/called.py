"""What sections are called: from place, repetition, length and how full they sound.

Method: a multinomial logistic regression over what a section is among the others (:data:`FEATURES`), fitted by
``training/fit_names.py`` on songs as the program hears them. All passes of a music are one thing, decided together, and all musics of a song against each other; only
the first and the last section may be an intro or an ending whatever their music is. A second verse is called “Verse B”.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...song.sectionnames import SONG
from .. import net

Floats = NDArray[np.float64]
# what a music is that is not only at the edges of a song
INNER = ("verse", "chorus", "pre-chorus", "bridge", "interlude")
ROLES = (*INNER, "intro", "ending")
NAMES = {"verse": "Verse", "chorus": "Chorus", "pre-chorus": "Pre-chorus", "bridge": "Bridge", "intro": "Intro",
         "ending": "Ending", "interlude": "Interlude"}  # fmt: skip
FEATURES = (
    "one", "first", "last", "comes again", "alone inside", "how often", "most often",
    "loud", "busy", "loudest that comes again", "first that comes again", "only one that comes again",
    "louder than its other passes", "first and loud", "last and loud",
    "length", "length among its passes", "usual length", "first and its usual length", "last and its usual length",
    "first and short among its passes", "last and short among its passes",
    "what follows is louder", "what was before is louder", "always followed by one", "always after one", "always between two",
    "ends the song too", "opens the song", "opened the song", "where", "where it first comes", "last but one", "comes near the end",
    "loudest and first that comes again", "short and opens the song",
    "first and alone", "last and alone", "first and the next is the same", "first, alone and short", "last, alone and short",
)  # fmt: skip
USUAL = 8.0  # bars of a section
LOUD = 3.0  # dB that are plainly louder
SHORT = 4  # bars of what is hardly a section
SHORTER = -0.5  # log length among its passes, below which a first or last section is only a piece
BY_PLACE = 0.7  # least chance of an intro: of 31 such names 26 were right
PIECE, FRAME = 4.0, 2.5  # log odds of such a piece, and of music that only opens and ends the song
ALONE = 1.5  # log odds of what is short, comes once and opens or ends the song
AGAIN = 1.0  # what a second music of one role costs, in log odds


@dataclass(frozen=True)
class Suggested:
    """A name, and how sure it is."""

    name: str
    sure: float


def features(spans: Sequence[tuple[int, int]], letters: Sequence[str], level: Floats, busy: Floats) -> Floats:
    """(sections, FEATURES) of sections ``spans`` (bars, end exclusive) whose musics are ``letters``; ``level`` (bars,) in dB
    and ``busy`` (bars,) how much happens in each bar, standardised."""
    count = len(spans)
    long = np.array([b - a for a, b in spans], float)
    loud, full = (np.array([x[a:b].mean() for a, b in spans]) for x in (level, busy))
    song_loud, song_full = (float(np.average(x, weights=long)) for x in (loud, full))
    order = list(dict.fromkeys(letters))
    passes = {k: [i for i in range(count) if letters[i] == k] for k in order}
    again = [k for k in order if len(passes[k]) > 1]
    louds = {k: float(loud[passes[k]].mean()) for k in order}
    fulls = {k: float(full[passes[k]].mean()) for k in order}
    usual = {k: float(np.median(long[passes[k]])) for k in order}
    loudest = max(again, key=lambda k: louds[k]) if again else None
    most = max(len(p) for p in passes.values())
    several = len(again) > 1

    def step(x: float) -> float:
        return float(np.clip(x / LOUD, -1, 1))  # much quieter says no more than plainly quieter

    rows = []
    for i, k in enumerate(letters):
        first, last, times = i == 0, i == count - 1, len(passes[k])
        after = [letters[j + 1] for j in passes[k] if j + 1 < count and letters[j + 1] != k]
        before = [letters[j - 1] for j in passes[k] if j > 0 and letters[j - 1] != k]
        one_after, one_before = (len(set(x)) == 1 and len(x) > 1 for x in (after, before))
        length, among, its = (float(np.log(x)) for x in (long[i] / USUAL, long[i] / usual[k], usual[k] / USUAL))
        heard = step(loud[i] - song_loud)
        near_end = passes[k][-1] >= count - 2
        rows.append([
            1.0, first, last, times > 1, times == 1 and 0 < i < count - 1, min(times, 5) / 5, times == most and several,
            step(louds[k] - song_loud), float(np.clip(fulls[k] - song_full, -2, 2)), k == loudest and several,
            bool(again) and k == again[0] and several, not several and times > 1,
            step(loud[i] - louds[k]), heard * first, heard * last,
            length, among, its, its * first, its * last, among * first, among * last,
            step(float(np.mean([louds[x] for x in after])) - louds[k]) if after else 0.0,
            step(float(np.mean([louds[x] for x in before])) - louds[k]) if before else 0.0,
            one_after, one_before, one_after and one_before,
            letters[-1] == k and times > 1, letters[0] == k, letters[0] == k and times > 1 and i > 0,
            i / count, passes[k][0] / count, i == count - 2, near_end,
            bool(again) and k == loudest == again[0], letters[0] == k and times > 1 and usual[k] <= SHORT,
            first and times == 1, last and times == 1, first and count > 1 and letters[1] == k,
            first and times == 1 and long[i] <= SHORT, last and times == 1 and long[i] <= SHORT,
        ])  # fmt: skip
    return np.array(rows, float)


def decide(rows: Floats, letters: Sequence[str], weights: Floats) -> list[tuple[str, int, float]]:
    """(role, which music of that role from 0, probability) of each section from what :func:`features` gives and ``weights``
    (FEATURES, ROLES). Roles are shared out among the musics so that all together fit best; a second music of one role costs."""
    odds = rows @ weights
    logs = odds - odds.max(1, keepdims=True)
    logs -= np.log(np.exp(logs).sum(1, keepdims=True))
    edges = _edges(rows, letters, logs)
    inside: dict[str, list[int]] = {}
    for i, k in enumerate(letters):
        if i not in edges:
            inside.setdefault(k, []).append(i)
    of_music = {k: logs[passes].mean(0)[: len(INNER)] for k, passes in inside.items()}
    shared = _shared(of_music, Counter(letters))
    out = []
    for i, k in enumerate(letters):
        if i in edges:
            chances = np.exp(logs[i] - logs[i].max())
            role, copy = edges[i], 0
        else:
            chances = np.exp(of_music[k] - of_music[k].max())
            role, copy = shared[k]
        sure = float(chances[role] / chances.sum())
        # what opens a song is called an intro by its place, which the chances of its music do not know
        out.append((ROLES[role], copy, max(sure, BY_PLACE) if ROLES[role] == "intro" else sure))
    return out


def _edges(rows: Floats, letters: Sequence[str], logs: Floats) -> dict[int, int]:
    """Which of the first and last sections are an intro or an ending, whatever their music is."""
    count, out = len(letters), {}
    for edge, at in ((ROLES.index("intro"), 0), (ROLES.index("ending"), count - 1)):
        k = letters[at]
        more = PIECE if rows[at, FEATURES.index("length among its passes")] <= SHORTER else 0.0
        # what is short, comes once and opens or ends a song is hardly anything else; made songs have too few of other levels
        alone = rows[at, FEATURES.index("first, alone and short")] or rows[at, FEATURES.index("last, alone and short")]
        more += ALONE if alone else 0.0
        more += FRAME if count > 3 and list(letters).count(k) == 2 and letters[0] == k == letters[-1] else 0.0
        passes = [i for i in range(count) if letters[i] == k]
        usual = logs[[i for i in passes if 0 < i < count - 1] or passes].mean(0)
        role = int(usual[: len(INNER)].argmax())
        if logs[at, edge] + more > logs[at, role] and at not in out:
            out[at] = edge
    return out


def _shared(of_music: Mapping[str, Floats], times: Mapping[str, int]) -> dict[str, tuple[int, int]]:
    """(role, which music of that role) of each music: the best for all of them together."""
    from scipy.optimize import linear_sum_assignment  # loaded when a song is decided, not with the window

    musics = list(of_music)
    if not musics:
        return {}
    cost = np.array([
        [-np.sqrt(times[k]) * of_music[k][r] + AGAIN * copy for copy in range(len(musics)) for r in range(len(INNER))]
        for k in musics
    ])  # fmt: skip
    rows, columns = linear_sum_assignment(cost)
    role = {musics[i]: int(c) % len(INNER) for i, c in zip(rows, columns, strict=True)}
    seen: dict[int, int] = {}
    out = {}
    for k in musics:  # in order of appearance
        out[k] = role[k], seen.get(role[k], 0)
        seen[role[k]] = out[k][1] + 1
    return out


def suggest(spans: Sequence[tuple[int, int]], letters: Sequence[str], level: Floats, busy: Floats) -> list[Suggested]:
    """Names of sections; a song of one section is called so."""
    if len(spans) < 2:
        return [Suggested(SONG, 0.5)] * len(spans)
    weights = net.weights("names")["weights"].astype(float)
    found = decide(features(spans, letters, level, busy), letters, weights)
    return [Suggested(NAMES[r] + (f" {chr(ord('A') + n)}" if 0 < n < 26 else ""), p) for r, n, p in found]
