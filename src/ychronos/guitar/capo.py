"""Where a capo helps: so far by the key alone."""

from __future__ import annotations

from ..theory.key import Key


def capo_for(key: Key) -> int:
    """The lowest fret up to 5 at which a key is played in open shapes; 0 where it is without a capo."""
    major = (key.tonic + (3 if key.minorish else 0)) % 12
    open_keys = {0, 2, 4, 7, 9}
    for fret in range(6):
        if (major - fret) % 12 in open_keys:
            return fret
    return 0
