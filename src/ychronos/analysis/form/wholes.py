"""Phrases that make one section: what always follows each other in one texture is one whole.

Method: the stretches that repeat (:mod:`.sections`) are phrases, written one character each; what players name is often two or four of
them. A reading of a song says which runs of musics are wholes: from left to right the longest one that fits is taken, what fits none is a
section by itself. Readings with up to two kinds of wholes are compared, the best ones with more, by a log-linear model: what the sound says of
the joints inside (change of texture and level, how likely a section begins), how long sections are, how many kinds there are and how much
of the song comes again, whether the pieces of a whole come without the rest of it too. Fitted by ``training/fit_wholes.py``.
Conventions: phrases between limits in bars; a reading as the indexes of the phrases that begin a section; likenesses as in :mod:`.boundaries`.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations, pairwise

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Reading = tuple[int, ...]
LONGEST = 40  # bars in a whole
MOST_PHRASES = 8  # in a whole
LEAST_KINDS, MOST_KINDS, WORK = 12, 48, 600  # of wholes that are tried; times phrases of the song
AT_ONCE, KINDS = 4, 5  # readings that are gone on with, kinds of wholes in a song at most
LENGTHS = (4, 9, 17, 25, 33)  # bars up to which sections are of one class of lengths
FEATURES = (
    *("joints inside", "change of texture", "step of level", "rise of level", "odds of a beginning", "odds against the song's usual"),
    *("texture against the song's usual", "the same music", "wholes", "kinds of sections", "kinds of wholes that come once"),
    *("pieces of a whole elsewhere", "kinds that share a music", "one whole again and again", "one of two musics", "one that comes back"),
    *(f"up to {n} bars" for n in LENGTHS), "longer", "unlike lengths in a whole", "the same section again", "share that comes again",
    *("pieces of a whole at the ends", "phrases in all kinds", "each music in one kind", "kinds that are pieces"),
)  # fmt: skip
WEIGHTS = (
    0.38, -0.07, -0.11, 0.05, -0.21, -0.12, 0.05, -0.08, 0.10, 0.93, -0.00, 0.14, -0.75, -1.11, -1.15, 5.35,
    -0.18, -0.08, -0.04, -0.62, -0.33, -0.81, -0.09, 0.07, 1.83, -0.14, -0.65, 0.80, -0.36,
)  # fmt: skip


@dataclass(frozen=True)
class Phrases:
    """``limits`` (n + 1) in bars, ``music`` a character for each, ``here`` (n - 1, 3) what the sound says of each joint: change of
    texture, step of level in dB, log odds of a beginning."""

    limits: tuple[int, ...]
    music: str
    here: Floats


def phrases_of(limits: Sequence[int], letters: Sequence[str], sound: Floats, level: Floats, odds: Floats) -> Phrases:
    """``sound`` (bars, bars) likeness of bars, ``level`` (bars,) dB, ``odds`` (bars,) of a beginning."""
    signs = {x: chr(ord("A") + k) for k, x in enumerate(dict.fromkeys(letters))}
    spans = list(pairwise(limits))
    here = [_joint(a, b, sound, level, odds) for a, b in pairwise(spans)]
    return Phrases(tuple(limits), "".join(signs[x] for x in letters), np.array(here).reshape(-1, 3))


def _joint(left: tuple[int, int], right: tuple[int, int], sound: Floats, level: Floats, odds: Floats) -> Floats:
    near, far = range(max(left[0], left[1] - 4), left[1]), range(right[0], min(right[1], right[0] + 4))
    inside = [float(sound[np.ix_(r, r)].mean()) for r in (near, far)]
    across = sum(inside) / 2 - float(sound[np.ix_(near, far)].mean())
    step = float(level[slice(*right)].mean() - level[slice(*left)].mean())
    return np.array([10 * across, np.clip(step, -4, 4), odds[right[0]]])


def read(music: str, wholes: Iterable[str]) -> Reading:
    """Where sections begin when ``wholes`` are one section each."""
    longest = sorted(wholes, key=len, reverse=True)
    begins, i = [], 0
    while i < len(music):
        begins.append(i)
        i += next((len(w) for w in longest if music.startswith(w, i)), 1)
    return tuple(begins)


def kinds(phrases: Phrases) -> list[str]:
    """Runs of musics that may be wholes, those that come most first."""
    music, limits = phrases.music, phrases.limits
    runs = Counter(
        music[a:b]
        for a in range(len(music))
        for b in range(a + 2, min(len(music), a + MOST_PHRASES) + 1)
        if limits[b] - limits[a] <= LONGEST
    )
    return sorted(runs, key=lambda w: (-runs[w], len(w), w))[
        : max(LEAST_KINDS, min(MOST_KINDS, WORK // max(1, len(music))))
    ]


def readings(phrases: Phrases, known: Sequence[str]) -> dict[Reading, tuple[str, ...]]:
    """All readings with up to two of the ``known`` kinds of wholes, and those kinds."""
    out: dict[Reading, tuple[str, ...]] = {}
    for n in range(3):
        for wholes in combinations(known, n):
            begins = read(phrases.music, wholes)
            if begins not in out and _possible(phrases, begins):
                out[begins] = wholes
    return out


def _spans(phrases: Phrases, begins: Reading) -> list[tuple[int, int]]:
    """The phrases of each section, the last exclusive."""
    return list(pairwise((*begins, len(phrases.music))))


def _possible(phrases: Phrases, begins: Reading) -> bool:
    """Whether no whole is too long, and nothing of two musics is a whole where one of them stands alone too: their halves do not always
    follow each other then. First and last of all half a section may stand alone, as an introduction or an ending."""
    spans = _spans(phrases, begins)
    if any(b - a > 1 and phrases.limits[b] - phrases.limits[a] > LONGEST for a, b in spans):
        return False
    alone = {phrases.music[a] for a, b in spans[1:-1] if b - a == 1}
    return not any(alone & set(w) for w in (phrases.music[a:b] for a, b in spans) if len(set(w)) > 1)


def features(phrases: Phrases, begins: Reading) -> list[float]:
    """What is known of a reading, by FEATURES."""
    music, limits = phrases.music, phrases.limits
    spans = _spans(phrases, begins)
    sections, long = [music[a:b] for a, b in spans], [limits[b] - limits[a] for a, b in spans]
    inside = sorted(set(range(1, len(music))) - set(begins))
    here = phrases.here[[j - 1 for j in inside]] if inside else np.zeros((0, 3))
    texture, step, odds = (float(x) for x in (here[:, 0].sum(), np.abs(here[:, 1]).sum(), here[:, 2].sum()))
    usual = phrases.here.mean(axis=0) * len(inside) if len(music) > 1 else np.zeros(3)
    times = Counter(sections)
    wholes = [w for w in times if len(w) > 1]
    piece = [any(s != w and s in w for w in wholes) for s in sections]
    shared = sum(1 for a, b in combinations(times, 2) if a not in b and b not in a and set(a) & set(b))
    core = sections[times[sections[0]] == 1 :]
    core = core[: len(core) - (times[core[-1]] == 1)] if core else core
    one = core[0] if len(core) > 1 and len(set(core)) == 1 and len(core[0]) > 1 else ""
    classes = Counter(sum(n > most for most in LENGTHS) for n in long)
    size = [b - a for a, b in pairwise(limits)]
    again = sum(n for n, s in zip(long, sections, strict=True) if times[s] > 1)
    return [
        len(inside), texture, step, float(np.maximum(0, here[:, 1]).sum()), odds, odds - float(usual[2]),
        texture - float(usual[0]), sum(music[j] == music[j - 1] for j in inside), sum(len(s) > 1 for s in sections), len(times),
        sum(times[w] == 1 for w in wholes), sum(piece), shared, float(one != ""), float(len(one) == 2 and one[0] != one[1]),
        float(comes_back(one)),
        *(classes[k] for k in range(len(LENGTHS) + 1)), sum(size[j] != size[j - 1] for j in inside),
        sum(a == b for a, b in pairwise(sections)), again / sum(long),
        piece[0] + piece[-1], sum(len(s) for s in times), float(all(sum(x in s for s in times) == 1 for x in set(music))),
        sum(any(s in w for w in wholes) for s in times if len(s) == 1),
    ]  # fmt: skip


def comes_back(whole: str) -> bool:
    """Whether a music comes back after another one in a run, as in AABA, and it is not two alike halves."""
    half = len(whole) // 2
    if whole[:half] * 2 == whole:
        return False
    return any(x in whole[i + 1 :].lstrip(x) for i, x in enumerate(whole))


def join(limits: Sequence[int], letters: Sequence[str], sound: Floats, level: Floats, odds: Floats) -> list[int]:
    """Limits of the wholes that phrases between ``limits`` make."""
    phrases = phrases_of(limits, letters, sound, level, odds)
    known = kinds(phrases)
    tried = readings(phrases, known)
    worth = {begins: float(np.dot(WEIGHTS, features(phrases, begins))) for begins in tried}
    for _ in range(2, KINDS):
        more = {}
        for begins in sorted(worth, key=lambda x: -worth[x])[:AT_ONCE]:
            for w in known:
                wholes = (*tried[begins], w)
                again = read(phrases.music, wholes)
                if again not in worth and again not in more and _possible(phrases, again):
                    more[again] = wholes
        tried |= more
        worth |= {begins: float(np.dot(WEIGHTS, features(phrases, begins))) for begins in more}
        if not more or max(worth, key=lambda x: worth[x]) not in more:
            break
    best = max(worth, key=lambda x: worth[x])
    return [*(limits[k] for k in best), limits[-1]]
