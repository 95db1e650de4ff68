"""The house stands as it is drawn: imports go one way, and files stay small and plainly named."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

PACKAGE = Path(__file__).parents[1] / "fernbrook"
MAY_IMPORT = {
    "core": set(),
    "audio": set(),
    "analysis": {"audio", "core"},
    "render": {"audio", "core"},
    "formats": {"core"},
    "store": {"core"},
    "service": {"store", "render", "analysis", "formats", "audio", "core"},
    "demo": {"service", "audio", "core"},
    "api": {"service", "store", "render", "audio", "core"},
}
OUTSIDE_CORE = {"numpy", "pydantic"}


def _imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
            found |= {node.module} | {f"{node.module}.{alias.name}" for alias in node.names}
    return found


@pytest.mark.parametrize("layer", MAY_IMPORT)
def test_layer_imports_only_what_lies_below(layer: str) -> None:
    for path in (PACKAGE / layer).rglob("*.py"):
        ours = {name.split(".")[1] for name in _imports(path) if name.startswith("fernbrook.")} - {"__version__"}
        stray = ours - MAY_IMPORT[layer] - {layer}
        assert not stray, f"{path.relative_to(PACKAGE)} imports {stray}"


def test_core_stands_on_numpy_and_pydantic_alone() -> None:
    import sys

    for path in (PACKAGE / "core").glob("*.py"):
        outside = {n.split(".")[0] for n in _imports(path)} - {"fernbrook"} - set(sys.stdlib_module_names)
        assert outside <= OUTSIDE_CORE, path.name


def test_every_package_is_drawn() -> None:
    packages = {p.parent.name for p in PACKAGE.glob("*/__init__.py")}
    assert packages == set(MAY_IMPORT)


def test_files_are_one_idea_each() -> None:
    for path in PACKAGE.rglob("*.py"):
        assert path.stem not in {"utils", "helpers", "common", "misc"}
        assert len(path.read_text().splitlines()) <= 450, path
