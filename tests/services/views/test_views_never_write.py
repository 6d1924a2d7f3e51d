"""What pages show never writes: nothing in the views, nor in what is sent off, is or calls a gesture or an edit."""

import ast
import importlib
import pkgutil
from pathlib import Path

import pytest

import gaitwire.services.output
import gaitwire.services.scene
import gaitwire.services.views

WRITES = {"edit", "do", "change", "put", "remove", "atomic", "take_step"}
"""Methods that store something, of a workspace, a floor, a draft or a store."""


def modules_of(package):
    return [importlib.import_module(f"{package.__name__}.{m.name}") for m in pkgutil.iter_modules(package.__path__)]


GESTURES = {
    name
    for module in modules_of(gaitwire.services.scene)
    for name, thing in vars(module).items()
    if callable(thing) and getattr(thing, "__wrapped__", None) and thing.__code__.co_name == "done"
}


def test_gestures_are_found():
    assert {"set_values", "put_gait", "repeat_channels"} <= GESTURES and len(GESTURES) > 90


@pytest.mark.parametrize(
    "module", modules_of(gaitwire.services.views) + modules_of(gaitwire.services.output), ids=lambda m: m.__name__
)
def test_nothing_that_only_shows_writes(module):
    tree = ast.parse(Path(module.__file__).read_text())
    named = {n.id for n in ast.walk(tree) if isinstance(n, ast.Name)}
    assert not named & GESTURES
    called = {n.func.attr for n in ast.walk(tree) if isinstance(n, ast.Call) and isinstance(n.func, ast.Attribute)}
    assert not called & WRITES
