"""The demo's things: a ladder, an old apple tree, a basket, an apple."""

from __future__ import annotations

from gaitwire.demo.rigging import JointRow, bring_in, rig
from gaitwire.services.session.workspace import Workspace

RUNGS = 13


def rung_place(number: int) -> tuple[float, float]:
    """The middle of a rung in the ladder's own drawing; the lowest is number 1."""
    return 81.0 + 10.55 * (number - 1), 559.0 - 44.0 * (number - 1)


def make_ladder(workspace: Workspace) -> str:
    """A ladder whose rungs are bones, to be stood on; the puppet's id."""
    bench = bring_in(workspace, "ladder.svg", "Ladder")
    foot = (70.0, 604.0)
    rig(
        bench,
        [
            JointRow("near rail", None, foot, (190, 4)),
            JointRow("far rail", "near rail", foot),
            *(JointRow(f"rung {n}", "near rail", rung_place(n)) for n in range(1, RUNGS + 1)),
        ],
    )
    bench.set_base(*foot)
    return bench.puppet_id


BANK_RISE = (1224.0, 260.0)
"""How far the bank goes, and how high."""


def make_bank(workspace: Workspace) -> str:
    """A grassy bank to walk up; its base is where it begins to rise. The puppet's id."""
    bench = bring_in(workspace, "bank.svg", "Grassy bank")
    rig(bench, [JointRow("bank", None, (176, 366))])
    bench.set_base(176, 366)
    return bench.puppet_id


def make_tree(workspace: Workspace) -> str:
    """An old apple tree with a stout branch; the puppet's id."""
    bench = bring_in(workspace, "tree.svg", "Apple tree")
    rig(
        bench,
        [
            JointRow("trunk", None, (508, 690), (480, 300)),
            JointRow("branch", "trunk", (486, 286), (60, 244)),
            JointRow("crown", "trunk", (470, 250), (470, 60)),
            JointRow("crown back", "crown", (460, 240)),
            JointRow("crown apples", "crown", (470, 190)),
        ],
    )
    bench.set_base(508, 690)
    return bench.puppet_id


def make_basket(workspace: Workspace) -> str:
    """A basket that hangs from its handle; the puppet's id."""
    bench = bring_in(workspace, "basket.svg", "Basket")
    rig(
        bench,
        [
            JointRow("handle back", None, (80, 34), (80, 186), "load"),
            JointRow("weave", "handle back", (80, 100)),
            JointRow("fruit", "weave", (80, 100)),
        ],
    )
    bench.set_base(80, 186)
    return bench.puppet_id


def make_crate(workspace: Workspace) -> str:
    """An apple crate, to hop off; the puppet's id."""
    bench = bring_in(workspace, "crate.svg", "Apple crate")
    rig(
        bench,
        [JointRow("back", None, (130, 180)), *(JointRow(n, "back", (130, 180)) for n in ("slats", "posts", "brand"))],
    )
    bench.set_base(130, 182)
    return bench.puppet_id


def make_apple(workspace: Workspace) -> str:
    """An apple to be thrown; the puppet's id."""
    bench = bring_in(workspace, "apple.svg", "Apple")
    rig(bench, [JointRow("apple", None, (30, 40))])
    bench.set_base(30, 40)
    return bench.puppet_id
