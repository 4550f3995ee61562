"""Chords and bass: what the net hears, and what is decided from it."""
