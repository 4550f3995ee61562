"""The project file: its schema, older schemas brought up to it, reading and writing."""

from .document import FORMAT, SCHEMA, SUFFIX, ProjectError, dumps, load, loads, save

__all__ = ["FORMAT", "SCHEMA", "SUFFIX", "ProjectError", "dumps", "load", "loads", "save"]
