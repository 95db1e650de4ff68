"""The house stands as it is drawn: imports go one way, and files stay small and plainly named."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

PACKAGE = Path(__file__).parents[1] / "fernbrook"
GROUND = {"errors", "machine", "disk", "whole", "enclosed", "kept", "__version__"}
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
    "cli": {"api", "demo", "service", "store", "formats", "analysis", "audio", "core"},
}
ROOMS = {
    "core": {
        "value": set(),
        "remembered": set(),
        "track": {"value"},
        "tempo_map": {"track"},
        "mix": {"tempo_map", "track", "value", "remembered"},
        "plan": {"mix", "tempo_map", "track", "value", "remembered"},
        "library": {"mix", "track", "value"},
        "ordering": {"library", "plan", "mix", "track", "value", "remembered"},
    },
    "core.mix": {
        "curves": set(),
        "entries": set(),
        "transitions": {"curves"},
        "layers": {"curves", "entries", "transitions"},
        "model": {"curves", "entries", "transitions", "layers"},
        "placing": {"curves", "entries", "transitions", "layers", "model"},
        "commands": {"curves", "entries", "transitions", "layers", "model", "placing"},
    },
    "analysis": {
        "framing": set(),
        "tone": {"framing"},
        "beat": {"tone", "framing"},
        "structure": {"tone", "beat", "framing"},
        "voice": {"framing"},
        "separation": {"voice"},
    },
    "audio": {
        "measures": set(),
        "stretch": set(),
        "files": {"measures"},
        "pace": {"stretch"},
        "effects": {"measures"},
        "sources": {"files", "pace", "effects"},
    },
    "service": {
        "ground": set(),
        "files": {"ground"},
        "work": {"files", "ground"},
        "jobs": {"work", "files", "ground"},
        "tracks": {"jobs", "work", "files", "ground"},
        "mixes": {"tracks", "jobs", "work", "files", "ground"},
        "exporting": {"mixes", "tracks", "jobs", "work", "files", "ground"},
        "importing": {"exporting", "mixes", "tracks", "jobs", "work", "files", "ground"},
    },
    "api": {
        "schemas": set(),
        "frame": set(),
        "tracks": {"frame", "schemas"},
        "mixes": {"frame", "schemas"},
        "files": {"frame", "schemas"},
        "desk": {"frame", "schemas"},
    },
}
"""Within a layer or a room, what each of its rooms may use of the others."""
OUTSIDE_CORE = {"numpy", "pydantic", "typing_extensions"}


PAGE = PACKAGE.parent / "web" / "src"
PAGE_LAYERS = (
    "api",
    "theme",
    "time",
    "library",
    "sound",
    "pictures",
    "drawing",
    "stores",
    "composables",
    "components",
    "views",
)
"""The layers of the page, from the ground up: each may use those before it."""
PAGE_ROOMS = {
    "page": set(),
    "mix": {"page"},
    "order": {"page"},
    "edits": {"page"},
    "track": {"page"},
    "library": {"page", "mix"},
    "export": {"page"},
    "transition": {"page", "mix"},
    "layers": {"page", "transition"},
}
"""What each room of the page's composables may use of the others."""


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


def _modules(path: Path) -> set[str]:
    """The modules of ours that a file takes names from."""
    found = {n.module for n in ast.walk(ast.parse(path.read_text())) if isinstance(n, ast.ImportFrom) and n.module}
    return {name.removeprefix("fernbrook.") for name in found if name.startswith("fernbrook.")}


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
    inside = PACKAGE.joinpath(*layer.split("."), room)
    for path in inside.glob("*.py") if inside.is_dir() else [inside.with_suffix(".py")]:
        stray = {n for n in _ours(path) if _within(n, {layer}) and n != layer and not _within(n, allowed)}
        assert not stray, f"{path.relative_to(PACKAGE)} imports {stray}"


def _faces() -> set[str]:
    """The rooms that say what of them is public."""
    return {
        ".".join(p.parent.relative_to(PACKAGE).parts)
        for p in PACKAGE.rglob("__init__.py")
        if "__all__" in p.read_text()
    }


FACELESS = {"core.mix", "core.remembered", "core.tempo_map", "core.value", "service.work", "api.schemas"}
"""Rooms of which each file is asked for alone: a worker process loads only its own work."""


@pytest.mark.parametrize("layer", ["core", "core.mix", "audio", "service", "api"])
def test_rooms_have_faces(layer: str) -> None:
    drawn = {f"{layer}.{name}" for name in ROOMS[layer]}
    rooms = {".".join(p.parent.relative_to(PACKAGE).parts) for p in PACKAGE.glob(f"{layer.replace('.', '/')}/*/*.py")}
    assert rooms | FACELESS == drawn | FACELESS
    assert drawn - FACELESS <= _faces()


def test_what_stands_behind_a_face_is_its_room_s_own() -> None:
    faces = _faces()
    for path in PACKAGE.rglob("*.py"):
        own = ".".join(path.relative_to(PACKAGE).parent.parts)
        for name in _modules(path):
            behind = {f for f in faces if name.startswith(f"{f}.") and not _within(own, {f})}
            assert not behind, f"{path.relative_to(PACKAGE)} imports {name}"


def test_core_stands_on_numpy_and_pydantic_alone() -> None:
    import sys

    for path in (PACKAGE / "core").rglob("*.py"):
        outside = {n.split(".")[0] for n in _imports(path)} - {"fernbrook"} - set(sys.stdlib_module_names)
        assert outside <= OUTSIDE_CORE, path.name


def test_stand_ins_and_the_product_know_nothing_of_each_other() -> None:
    for path in (PACKAGE.parent / "standins").rglob("*.py"):
        assert not _ours(path), path
    for path in PACKAGE.rglob("*.py"):
        assert not {n for n in _imports(path) if n.split(".")[0] == "standins"}, path


def test_every_package_is_drawn() -> None:
    packages = {p.parent.name for p in PACKAGE.glob("*/__init__.py")}
    assert packages == set(MAY_IMPORT)


def test_files_are_one_idea_each() -> None:
    for path in PACKAGE.rglob("*.py"):
        assert path.stem not in {"utils", "helpers", "common", "misc"}
        assert len(path.read_text().splitlines()) <= 450, path


def _page_imports(path: Path) -> set[Path]:
    """What a file of the page imports of ours, by its place in the page's sources."""
    found = re.findall(r"(?:from|import\() ?'(\.{1,2}/[^']+)'", path.read_text())
    return {(path.parent / name.split("?")[0]).resolve().relative_to(PAGE) for name in found if "public" not in name}


def _page_files(folder: str) -> list[Path]:
    inside = PAGE / folder
    return [p for p in inside.rglob("*") if p.suffix in (".ts", ".vue") and not p.name.endswith(".spec.ts")]


@pytest.mark.parametrize("layer", PAGE_LAYERS)
def test_a_layer_of_the_page_imports_only_what_lies_below(layer: str) -> None:
    allowed = set(PAGE_LAYERS[: PAGE_LAYERS.index(layer) + 1])
    files = _page_files(layer)
    assert files
    for path in files:
        stray = {str(name) for name in _page_imports(path) if name.parts[0] not in allowed}
        assert not stray, f"{path.relative_to(PAGE)} imports {stray}"


def test_composables_of_the_page_stand_in_rooms() -> None:
    assert {p.relative_to(PAGE / "composables").parts[0] for p in _page_files("composables")} == set(PAGE_ROOMS)
    for room, allowed in PAGE_ROOMS.items():
        for path in _page_files(f"composables/{room}"):
            used = {name.parts[1] for name in _page_imports(path) if name.parts[0] == "composables"}
            assert used <= allowed | {room}, f"{path.relative_to(PAGE)} imports {used - allowed - {room}}"


def test_only_the_theme_reaches_into_the_component_library() -> None:
    for path in PAGE.rglob("*"):
        if path.suffix in (".vue", ".css") and path.parent.name != "theme":
            styles = path.read_text().split("<style")[1:] if path.suffix == ".vue" else [path.read_text()]
            assert not any(".ant-" in style for style in styles), path
