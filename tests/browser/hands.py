"""What tests of the Floor do over and over: seek, choose a wire, type a value, read a turn."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from playwright.sync_api import Locator, Page


def seek(page: Page, frame: float) -> None:
    page.evaluate(f"window.gaitwire.player.seek({frame})")


def act(program: Any, work: Callable[[], object]) -> None:
    """Do something on the page and wait for all it brings."""
    work()
    program.settled()


def wire(page: Page, name: str) -> Locator:
    return page.get_by_role("group", name=f"Wire of {name}", exact=True)


def pick(program: Any, name: str) -> None:
    """Choose a wire by its name."""
    act(program, wire(program.page, name).locator(".pick").click)


def unfold(page: Page) -> None:
    if page.locator("#fold-all").inner_text() == "unfold all":
        page.locator("#fold-all").click()


def typed(program: Any, field: str, value: object) -> None:
    """Type a value on the card."""
    box = program.page.locator(f"#card input[name={field}]")
    box.fill(str(value))
    act(program, lambda: box.press("Enter"))


def turn_of(program: Any, bone: str, frame: int) -> float:
    """How far a bone is turned on the stage, in degrees, read from the frames the page plays."""
    turned: float = program.page.evaluate(
        "([name, frame]) => { const { player, index } = window.gaitwire; const [a, b] = player.all.bone(frame, index(name));"
        " return (Math.atan2(b, a) * 180) / Math.PI; }",
        [bone, frame],
    )
    return turned
