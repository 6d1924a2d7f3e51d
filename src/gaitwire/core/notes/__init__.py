"""Notes: measured faults and facts of a scene. A new one adds one file and one line in the registry."""

from gaitwire.core.notes.note import Note, NoteScene
from gaitwire.core.notes.registry import MEASURES, notes_of

__all__ = ["MEASURES", "Note", "NoteScene", "notes_of"]
