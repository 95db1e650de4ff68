"""A person's hands: short presses and drags, as long as a person takes for them however busy the machine is."""

from __future__ import annotations

import time

from playwright.sync_api import Locator, Page

TAP_S = 0.06


def tap(page: Page, letter: str) -> None:
    """Press a letter's key shortly: the browser is told when it went down and when up."""
    browser = page.context.new_cdp_session(page)
    now = time.time()
    key = {"key": letter, "code": f"Key{letter.upper()}", "windowsVirtualKeyCode": ord(letter.upper())}
    browser.send("Input.dispatchKeyEvent", {"type": "keyDown", "text": letter, "timestamp": now, **key})
    browser.send("Input.dispatchKeyEvent", {"type": "keyUp", "timestamp": now + TAP_S, **key})
    browser.detach()


def drag(page: Page, handle: Locator, dx: float, at: tuple[float, float] = (0.5, 0.5)) -> None:
    """Take hold of something at a share of its width and height and move it sideways."""
    box = handle.bounding_box()
    assert box
    x, y = box["x"] + box["width"] * at[0], box["y"] + box["height"] * at[1]
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 9):
        page.mouse.move(x + dx * step / 8, y)
    page.mouse.up()
