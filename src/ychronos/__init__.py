"""Ychronos: the chart is the recording, folded."""

__version__ = "0.1.0"
