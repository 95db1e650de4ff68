"""The house stands as it is drawn: imports go one way, and files stay small and plainly named."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

PACKAGE = Path(__file__).parents[1] / "fernbrook"
GROUND = {"errors", "disk", "whole", "enclosed", "kept", "__version__"}
"""What every layer may use."""
MAY_IMPORT = {
    "core": set(),
    "audio": set(),
    "analysis": {"audio", "core"},
    "render": {"audio", "core"},
    "formats": {"core"},
    "solve": {"core"},
    "store": {"core"},
    "service": {"store", "render", "analysis", "formats", "solve", "audio", "core"},
    "demo": {"service", "audio", "core"},
    "api": {"service", "formats", "audio", "core", "store.jobs", "store.folders"},
    "cli": {"api", "demo", "service", "store", "formats", "analysis", "audio", "core", "outside"},
    "outside": set(),
}
ROOMS = {
    "core": {
        "value": set(),
        "track": {"value"},
        "mix": {"track", "value"},
        "plan": {"mix", "track", "value"},
        "library": {"mix", "track", "value"},
        "ordering": {"library", "plan", "mix", "track", "value"},
    },
    "analysis": {
        "framing": set(),
        "tone": {"framing"},
        "beat": {"tone", "framing"},
        "structure": {"tone", "beat", "framing"},
    },
}
"""Within a layer, what each of its rooms may use of the others."""
OUTSIDE_CORE = {"numpy", "pydantic", "typing_extensions"}


def _imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
            found |= {node.module} | {f"{node.module}.{alias.name}" for alias in node.names}
    return found


def _ours(path: Path) -> set[str]:
    """What a file imports of ours, without the package's name."""
    return {name.removeprefix("fernbrook.") for name in _imports(path) if name.startswith("fernbrook.")}


def _within(name: str, allowed: set[str]) -> bool:
    return any(name == a or name.startswith(f"{a}.") for a in allowed)


@pytest.mark.parametrize("layer", MAY_IMPORT)
def test_layer_imports_only_what_lies_below(layer: str) -> None:
    for path in (PACKAGE / layer).rglob("*.py"):
        stray = {name for name in _ours(path) if not _within(name, MAY_IMPORT[layer] | GROUND | {layer})}
        stray -= {"store"} if layer == "api" else set()
        assert not stray, f"{path.relative_to(PACKAGE)} imports {stray}"


@pytest.mark.parametrize(("layer", "room"), [(layer, room) for layer, rooms in ROOMS.items() for room in rooms])
def test_rooms_lie_one_upon_the_other(layer: str, room: str) -> None:
    allowed = {f"{layer}.{name}" for name in ROOMS[layer][room] | {room}}
    for path in (PACKAGE / layer / room).glob("*.py"):
        stray = {n for n in _ours(path) if _within(n, {layer}) and n != layer and not _within(n, allowed)}
        assert not stray, f"{path.relative_to(PACKAGE)} imports {stray}"


def test_core_stands_on_numpy_and_pydantic_alone() -> None:
    import sys

    for path in (PACKAGE / "core").rglob("*.py"):
        outside = {n.split(".")[0] for n in _imports(path)} - {"fernbrook"} - set(sys.stdlib_module_names)
        assert outside <= OUTSIDE_CORE, path.name


def test_every_package_is_drawn() -> None:
    packages = {p.parent.name for p in PACKAGE.glob("*/__init__.py")}
    assert packages == set(MAY_IMPORT)


def test_files_are_one_idea_each() -> None:
    for path in PACKAGE.rglob("*.py"):
        assert path.stem not in {"utils", "helpers", "common", "misc"}
        assert len(path.read_text().splitlines()) <= 450, path
