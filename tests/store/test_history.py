"""History: every run of edits can be taken back step by step, and done again, to the row."""

import contextlib
import shutil
import tempfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import (
    RuleBasedStateMachine,
    initialize,
    invariant,
    precondition,
    rule,
    run_state_machine_as_test,
)

from builders.acting import only
from builders.making import lead
from builders.named import id_of
from conftest import KNOWN
from gaitwire.core.addresses import Bead
from gaitwire.core.errors import ConflictError, GaitWireError, HistoryError
from gaitwire.services.rig.bench import Bench
from gaitwire.services.scene.beads import copy_beads, delete_beads, ease_beads, move_beads
from gaitwire.services.scene.floor import make_scene, update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store
from gaitwire.store.documents import discard, list_documents, load_puppet, load_scene
from gaitwire.store.history import SHELF, next_step, take_step


def test_a_puppet_taken_off_comes_back_whole(orchard):
    pip = id_of(orchard, "puppet", "Pip")
    before = orchard.puppet(pip)
    with orchard.edit("take off", [pip, SHELF]) as edit:
        discard(edit, "puppet", pip)
    scene = orchard.scene(id_of(orchard, "scene", "Pip hops"))
    assert pip not in orchard.cast(scene)  # it sleeps there, and the scene is not broken
    assert len(orchard.frames(scene.id, np.zeros(1)).part_keys) > 0
    take_step(orchard.store, SHELF, "undo")
    assert orchard.puppet(pip).model_copy(update={"revision": 0}) == before.model_copy(update={"revision": 0})
    assert pip in orchard.cast(scene)


def test_a_step_on_two_documents_waits_for_what_came_later(workspace):
    scene = make_scene(workspace, "Rows")
    update_scene(Floor(workspace, scene), frames=30)
    with pytest.raises(HistoryError, match="undo “set frames” first"):
        take_step(workspace.store, SHELF, "undo")
    take_step(workspace.store, scene, "undo")
    take_step(workspace.store, SHELF, "undo")
    assert list_documents(workspace.store, "scene") == []


def test_undo_on_a_page_never_takes_the_page_away(workspace):
    scene = make_scene(workspace, "Rows")
    update_scene(Floor(workspace, scene), frames=30)
    take_step(workspace.store, scene, "undo")
    with pytest.raises(HistoryError, match="nothing to undo"):
        take_step(workspace.store, scene, "undo")
    assert workspace.scene(scene).frames == 48


def test_history_survives_a_restart(workspace):
    scene = make_scene(workspace, "Rows")
    update_scene(Floor(workspace, scene), frames=30)
    folder = workspace.store.path.parent
    workspace.store.close()
    store = Store(folder)
    assert take_step(store, scene, "undo")[0] == "set frames"
    assert load_scene(store, scene).frames == 48
    workspace.store = store


def test_an_edit_from_an_older_page_goes_through_unless_its_rows_changed(orchard):
    only(orchard, "Tamsin waits")
    tamsin = id_of(orchard, "puppet", "Tamsin")
    puppet = orchard.puppet(tamsin)
    old = puppet.revision
    ear, brow = (next(b.id for b in puppet.bones if b.name == n) for n in ("ear", "brow"))
    Bench(orchard, tamsin, old).move_joint(ear, "pivot", 1, 1, alone=True)
    Bench(orchard, tamsin, old).move_joint(brow, "pivot", 2, 2, alone=True)
    with pytest.raises(ConflictError, match="another window"):
        Bench(orchard, tamsin, old).move_joint(ear, "pivot", 3, 3, alone=True)
    assert orchard.puppet(tamsin).bone(ear).x == 1


def test_an_edit_that_changes_nothing_is_no_step(orchard):
    pip = id_of(orchard, "puppet", "Pip")
    before = next_step(orchard.store, pip, "undo").depth
    Bench(orchard, pip).rename("Pip")
    assert next_step(orchard.store, pip, "undo").depth == before


def test_a_failed_edit_leaves_no_trace(orchard):
    cart = id_of(orchard, "puppet", "Handcart")
    before, depth = orchard.puppet(cart), next_step(orchard.store, cart, "undo").depth
    with pytest.raises(GaitWireError):
        Bench(orchard, cart).remove_bones([b.id for b in before.bones])
    assert orchard.puppet(cart) == before
    assert next_step(orchard.store, cart, "undo").depth == depth


class Editing(RuleBasedStateMachine):
    """Random edits, undos and redos on one puppet and one scene, against remembered states."""

    @initialize()
    def open(self):
        self.folder = Path(tempfile.mkdtemp())
        shutil.copytree(FOLDER[0], self.folder / "s")
        self.workspace = Workspace(Store(self.folder / "s"), KNOWN)
        self.puppet = id_of(self.workspace, "puppet", "Pip")
        self.scene = id_of(self.workspace, "scene", "Pip hops")
        self.past = {d: [(0, self.state(d))] for d in (self.puppet, self.scene)}
        self.future = {self.puppet: [], self.scene: []}
        self.steps = 0

    def state(self, document):
        load = load_puppet if document == self.puppet else load_scene
        found = load(self.workspace.store, document).model_dump()
        rows = [{**found, "revision": 0, "bones": 0, "parts": 0, "instances": 0, "channels": 0, "keys": 0}]
        return sorted(
            map(
                repr,
                [*rows, *(r for t in ("bones", "parts", "instances", "channels", "keys") for r in found.get(t, ()))],
            )
        )

    def did(self):
        """An edit was made, of either document or of both: what was undone of those can be had no more."""
        self.steps += 1
        for document, past in self.past.items():
            now = self.state(document)
            if now != past[-1][1]:
                past.append((self.steps, now))
                gone = {step for step, _ in self.future[document]}
                self.future = {d: [f for f in row if f[0] not in gone] for d, row in self.future.items()}

    @rule(n=st.integers(0, 4), x=st.integers(0, 200))
    def pivot(self, n, x):
        bones = self.workspace.puppet(self.puppet).bones
        if bones:
            Bench(self.workspace, self.puppet).move_joint(bones[n % len(bones)].id, "pivot", x, 5, alone=True)
        self.did()

    @rule(a=st.integers(0, 4), b=st.integers(0, 4), what=st.sampled_from(["hang", "group", "remove"]))
    def rehang(self, a, b, what):
        bones = self.workspace.puppet(self.puppet).bones
        one, two = bones[a % len(bones)].id, bones[b % len(bones)].id
        bench = Bench(self.workspace, self.puppet)
        work = {
            "hang": lambda: bench.hang([one], two),
            "group": lambda: bench.group([one, two]),
            "remove": lambda: bench.remove_bones([one]),
        }
        with contextlib.suppress(GaitWireError):
            work[what]()
        self.did()

    @rule(by=st.integers(-30, 30), share=st.integers(1, 4), what=st.sampled_from(["move", "copy", "delete", "ease"]))
    def beads(self, by, share, what):
        scene = self.workspace.scene(self.scene)
        owners = {c.id: (c.instance_id, c.owner_id) for c in scene.channels if c.instance_id == lead(scene).id}
        beads = sorted({Bead(*owners[k.channel_id], k.time) for k in scene.keys if k.channel_id in owners})[::share]
        floor = Floor(self.workspace, self.scene)
        if beads:
            {"move": lambda: move_beads(floor, beads, by), "copy": lambda: copy_beads(floor, beads, abs(by) % 24),
             "delete": lambda: delete_beads(floor, beads[:2]), "ease": lambda: ease_beads(floor, beads, "back-out")}[what]()  # fmt: skip
        self.did()

    @rule(which=st.booleans(), direction=st.sampled_from(["undo", "redo"]))
    def step(self, which, direction):
        document = self.puppet if which else self.scene
        source, target = (self.past, self.future) if direction == "undo" else (self.future, self.past)
        if len(source[document]) <= (direction == "undo"):
            return
        step = source[document][-1][0]
        both = [d for d, row in source.items() if any(s == step for s, _ in row)]
        if any(source[d][-1][0] != step for d in both):
            with pytest.raises(HistoryError):  # another one's step comes first
                take_step(self.workspace.store, document, direction)
            return
        take_step(self.workspace.store, document, direction)
        for d in both:
            target[d].append(source[d].pop())

    @precondition(lambda self: hasattr(self, "workspace"))
    @invariant()
    def stands_as_remembered(self):
        for document, past in self.past.items():
            assert self.state(document) == past[-1][1]

    @precondition(lambda self: hasattr(self, "workspace"))
    @invariant()
    def what_is_kept_is_what_would_be_made(self):
        """Models, compiled puppets and frames kept between edits are those that a fresh start would give."""
        frames = np.arange(0.0, 24.0, 5.0)
        kept = self.workspace.frames(self.scene, frames)
        anew = Workspace(self.workspace.store)
        assert self.workspace.scene(self.scene) == anew.scene(self.scene)
        fresh = anew.frames(self.scene, frames)
        assert kept.part_keys == fresh.part_keys
        assert np.array_equal(kept.matrices, fresh.matrices) and np.array_equal(kept.opacity, fresh.opacity)

    def teardown(self):
        if hasattr(self, "workspace"):
            self.workspace.store.close()
            shutil.rmtree(self.folder)


FOLDER = []


def test_any_run_of_edits_can_be_taken_back_and_done_again(orchard):
    only(orchard, "Pip hops")
    FOLDER[:] = [orchard.store.path.parent]
    run_state_machine_as_test(Editing, settings=settings(max_examples=12, stateful_step_count=20, deadline=None))
