"""Sections, and which are the same music."""
