"""Finds the browser that the tests drive; as a program, installs it where that may be done, or says what is missing."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

NAMES = ("chromium", "chromium-browser", "google-chrome", "google-chrome-stable", "chrome")
PLACES = (
    "/usr/bin/chromium",
    "/usr/lib/chromium/chromium",
    "/snap/bin/chromium",
    "/opt/google/chrome/chrome",
    "/Applications/Chromium.app/Contents/MacOS/Chromium",
    "/Applications/Google Chrome.app/Contents/MacOS/Google Chrome",
)
INSTALL = "apt-get update -qq && apt-get install -y -qq chromium fonts-liberation"
MISSING = (
    "The tests of the page were left out: no Chromium was found. Install it (Debian: apt install chromium), or say "
    "where it is with CHROMIUM=/path/to/chromium, then run make test again."
)


def find() -> str | None:
    """The path of a Chromium: the one that is named by CHROMIUM, else any that is where one usually is."""
    named = os.environ.get("CHROMIUM")
    if named:
        return named if Path(named).exists() else None
    return next((path for path in map(shutil.which, NAMES) if path), None) or next(
        (place for place in PLACES if Path(place).exists()), None
    )


def main() -> int:
    """Make sure that there is one."""
    if find() is None and hasattr(os, "geteuid") and os.geteuid() == 0 and shutil.which("apt-get"):
        subprocess.run(["sh", "-c", INSTALL], check=False, stdout=subprocess.DEVNULL)
    if find() is None:
        print(MISSING, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
