"""Documents by their names."""

from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import Kind, list_documents


def id_of(workspace: Workspace, kind: Kind, name: str) -> str:
    return next(e.id for e in list_documents(workspace.store, kind) if e.name == name)
