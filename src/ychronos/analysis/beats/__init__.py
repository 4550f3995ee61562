"""Beats, metrical level, bar lines and meter."""
