"""Pitch, keys, chords and meters: spelling, parsing and naming. Imports nothing else of ours."""
