"""Sounds that are made: clicks, plucked strings, chords laid under a record."""
