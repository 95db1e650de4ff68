"""Waiting for something that the page's own waits do not see."""

from __future__ import annotations

import time
from collections.abc import Callable

from playwright.sync_api import Page

PATIENCE_S = 30.0
STEP_MS = 50


def until(page: Page, is_so: Callable[[], bool]) -> None:
    """Wait until something is so, that a busy machine may have yet to come to."""
    end = time.monotonic() + PATIENCE_S
    while not is_so():
        if time.monotonic() > end:
            raise AssertionError("it never came to be so")
        page.wait_for_timeout(STEP_MS)
