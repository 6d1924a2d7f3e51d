"""The store: one SQLite file, plain SQL, every edit a step of history."""

from gaitwire.store.connection import Store

__all__ = ["Store"]
