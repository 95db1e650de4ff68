"""What docs and comments point to is there: links between pages, and the paths of files in code quotes."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
BASES = ("", "fernbrook", "fernbrook/analysis", "web", "web/src", "web/src/components", "docs", "tests")
"""From where paths are written."""
LINK = re.compile(r"\]\((?!https?:|#|mailto:)([^)\s#]+)")
QUOTED = re.compile(r"`((?:[\w.@-]+/)+[\w.*-]+\.(?:py|ts|vue|js|md|toml|lock|json)|[\w-]+\.(?:py|ts|vue))`")
MADE = {"fernbrook/webapp/index.html", "web/openapi.json"}


def _files(*endings: str) -> list[Path]:
    listed = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=True).stdout.split(
        "\n"
    )
    return [ROOT / name for name in listed if name.endswith(endings) and (ROOT / name).exists()]


def _is_there(path: str, beside: Path) -> bool:
    if "*" in path or path in MADE:
        return True
    if "/" not in path:
        return any(f.name == path for f in _files(".py", ".ts", ".vue"))
    return (beside.parent / path).exists() or any((ROOT / base / path).exists() for base in BASES)


@pytest.mark.parametrize("page", _files(".md"), ids=lambda p: str(p.relative_to(ROOT)))
def test_links_of_a_page_lead_somewhere(page: Path) -> None:
    broken = [link for link in LINK.findall(page.read_text()) if not (page.parent / link).exists()]
    assert not broken


@pytest.mark.parametrize("ending", [".md", ".py", ".ts", ".vue"])
def test_files_that_are_named_are_there(ending: str) -> None:
    gone = {
        (str(page.relative_to(ROOT)), path)
        for page in _files(ending)
        if page.name != "CHANGELOG.md"
        for path in QUOTED.findall(page.read_text())
        if not _is_there(path, page)
    }
    assert not gone
