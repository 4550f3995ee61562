"""Dialogs over the window."""
