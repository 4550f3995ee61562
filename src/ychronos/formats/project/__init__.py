"""The project file: its schema, older schemas brought up to it, reading and writing, and knowing the file again."""

from .document import DAMAGE, SCHEMA, SUFFIX, ProjectError, dumps, encoded, load, loads, plain, save, song_of
from .known import FORMAT, FileMark, is_file, is_project, mark_of, same_file

__all__ = [
    "DAMAGE",
    "FORMAT",
    "SCHEMA",
    "SUFFIX",
    "FileMark",
    "ProjectError",
    "dumps",
    "encoded",
    "is_file",
    "is_project",
    "load",
    "loads",
    "mark_of",
    "plain",
    "same_file",
    "save",
    "song_of",
]
