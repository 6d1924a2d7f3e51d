"""All of the orchard, into an empty store."""

from __future__ import annotations

from gaitwire.demo.climbing import make_climb_scene
from gaitwire.demo.figures import make_barrel, make_bramble, make_gander, make_stook
from gaitwire.demo.greeting import make_greeting_scene
from gaitwire.demo.hopping import make_hop_scene
from gaitwire.demo.props import make_apple, make_bank, make_basket, make_crate, make_ladder, make_tree
from gaitwire.demo.puppets import make_handcart, make_orchard, make_pip, make_tamsin, make_tamsin_front
from gaitwire.demo.scenes import make_cart_scene, make_gander_scene, make_pip_scene, make_tamsin_scene
from gaitwire.demo.talking import make_talk_scene
from gaitwire.demo.throwing import make_throw_scene
from gaitwire.demo.walking import make_walk_scenes
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import list_documents
from gaitwire.store.history import clear_history


def build_orchard(workspace: Workspace) -> bool:
    """Build the demo, unless there is something on the Shelf already; whether it was built."""
    if list_documents(workspace.store, "puppet") or list_documents(workspace.store, "scene"):
        return False
    orchard, pip = make_orchard(workspace), make_pip(workspace)
    gander, barrel, stook = make_gander(workspace), make_barrel(workspace), make_stook(workspace)
    bramble, front = make_bramble(workspace), make_tamsin_front(workspace)
    tamsin, handcart = make_tamsin(workspace), make_handcart(workspace)
    make_pip_scene(workspace, pip, orchard)
    make_tamsin_scene(workspace, tamsin, orchard)
    make_gander_scene(workspace, gander, barrel, stook, orchard)
    ladder, tree = make_ladder(workspace), make_tree(workspace)
    make_climb_scene(workspace, tamsin, ladder, tree, orchard)
    things = {"Basket": make_basket(workspace), "Apple": make_apple(workspace), "Tamsin": tamsin, "Stook": stook}
    make_throw_scene(workspace, things, orchard)
    walkers = {"Tamsin": tamsin, "Gander": gander, "Cider barrel": barrel, "Grassy bank": make_bank(workspace)}
    walkers |= {"Bramble": bramble, "Tamsin, front": front}
    make_walk_scenes(workspace, walkers, orchard)
    make_greeting_scene(workspace, tamsin, stook, orchard)
    make_talk_scene(workspace, stook, pip, orchard)
    make_hop_scene(workspace, pip, make_crate(workspace), orchard)
    make_cart_scene(workspace, handcart, orchard)
    # The demo is where work begins: undo must not take it apart.
    clear_history(workspace.store)
    return True
