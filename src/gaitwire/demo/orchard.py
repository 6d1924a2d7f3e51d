"""All of the orchard, into an empty store."""

from __future__ import annotations

from gaitwire.demo.puppets import make_handcart, make_pip, make_tamsin
from gaitwire.demo.scenes import make_cart_scene, make_pip_scene, make_tamsin_scene
from gaitwire.services.workspace import Workspace
from gaitwire.store.documents import list_documents


def build_orchard(workspace: Workspace) -> bool:
    """Build the demo, unless there is something on the Shelf already; whether it was built."""
    if list_documents(workspace.store, "puppet") or list_documents(workspace.store, "scene"):
        return False
    pip, tamsin, handcart = make_pip(workspace), make_tamsin(workspace), make_handcart(workspace)
    make_pip_scene(workspace, pip)
    make_tamsin_scene(workspace, tamsin)
    make_cart_scene(workspace, handcart)
    return True
