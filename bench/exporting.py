"""Exports: each kind of file against WAV, lanes against the mix, videos, archives and uploads against a copy."""

from __future__ import annotations

import hashlib
import shutil
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.material import mix_of, paths
from bench.rows import Row
from fernbrook.audio.files import OUTPUTS, can_write
from fernbrook.core.plan import RATE, Plan
from fernbrook.formats.archive import ArchiveKind, archive_at, read_archive, take_out
from fernbrook.formats.film import COLUMNS_A_SECOND, arrays_of
from fernbrook.formats.ribbon import Band
from fernbrook.render.lanes import lane_blocks, lanes_of
from fernbrook.render.renderer import render
from fernbrook.service.ground import Tokens
from fernbrook.service.work.publish import PublishOrder, publish
from fernbrook.service.work.render import render_wish
from fernbrook.service.work.wish import RenderWish
from standins.host.app import create_host
from standins.host.shelf import Behaviour, Shelf
from tests.standins.serving import served

SECONDS = 60.0
UPLOADED = 500_000_000
BREAK_AFTER = 5_000_000
"""Less than a part that is sent at once: each of them is broken off."""
PARCEL = ArchiveKind("bench", "parcel", 1, lambda _: True)


def rows() -> Iterator[Row]:
    resolved = mix_of(5, 7)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        yield from _kinds(resolved, folder)
        yield _lanes(resolved)
        yield _archive(folder)
        yield _upload(folder)


def _kinds(resolved: Plan, folder: Path) -> Iterator[Row]:
    start = max(0.0, resolved.transitions[0].start_s - 20.0)
    course = folder / "course.npz"
    columns = round(resolved.duration_s * COLUMNS_A_SECOND)
    level = np.random.default_rng(1).integers(30, 120, columns, dtype=np.uint8)
    with course.open("wb") as file:
        np.savez(file, **arrays_of([Band(0, 0, level // 2, level)]))  # type: ignore[arg-type]
    wav = None
    for output in OUTPUTS:
        if not can_write(output):
            continue
        wish = RenderWish(output=output, start_s=start, end_s=start + SECONDS)
        target = folder / f"x{output.suffix}"
        begun = time.perf_counter()
        render_wish(resolved, paths(), target, wish, None, lambda _: None, course)
        fast = SECONDS / (time.perf_counter() - begun)
        wav = wav or fast
        size = target.stat().st_size / output.spec.expected_bytes(SECONDS, RATE)
        yield Row(
            f"a minute around a transition as {output.spec.label}",
            f"{fast:.1f} x real time",
            f"WAV, 24 bit: {wav:.1f} x; ratio {fast / wav:.2f}; size {size:.2f} of what is said before",
            "2 x" if output.spec.video else "-",
        )


def _lanes(resolved: Plan) -> Row:
    lanes = lanes_of(resolved, by_stem=False, curves=True)
    begun = time.perf_counter()
    total = np.zeros((resolved.frames, 2))
    for lane in lanes:
        total += np.concatenate(list(lane_blocks(lane, paths(), resolved.frames)))
    ours = time.perf_counter() - begun
    begun = time.perf_counter()
    mix = np.concatenate(list(render(resolved, paths(), ceiling_dbtp=60.0)))
    theirs = time.perf_counter() - begun
    apart = 20.0 * np.log10(float(np.abs(total - mix).max()) + 1e-20)
    return Row(
        f"{len(lanes)} lanes of a mix: their sum against the mix before its limiter",
        f"largest difference {apart:.0f} dBFS; {resolved.duration_s / ours:.0f} x real time",
        f"the mix at once: {resolved.duration_s / theirs:.0f} x; ratio {theirs / ours:.2f}",
        "-120 dBFS",
    )


def _archive(folder: Path) -> Row:
    """An archive with checked sums against copying a file there and back."""
    source = folder / "source.bin"
    source.write_bytes(np.random.default_rng(2).bytes(UPLOADED))
    begun = time.perf_counter()
    with archive_at(folder / "a.zip") as archive:
        archive.add("source.bin", source)
        archive.finish(PARCEL, {})
    take_out(
        folder / "a.zip", read_archive(folder / "a.zip", PARCEL), {"source.bin": folder / "out.bin"}, lambda _: None
    )
    ours = time.perf_counter() - begun
    begun = time.perf_counter()
    for target in ("b.bin", "c.bin"):
        shutil.copyfile(source, folder / target)
    theirs = time.perf_counter() - begun
    for name in ("a.zip", "out.bin", "b.bin", "c.bin"):
        (folder / name).unlink()
    size = UPLOADED / 1e6
    return Row(
        f"{size:.0f} MB into an archive and out of it, hashed both ways",
        f"{size / ours:.0f} MB/s",
        f"copied there and back: {size / theirs:.0f} MB/s; ratio {theirs / ours:.2f}",
        "-",
    )


def _upload(folder: Path) -> Row:
    """A file to a host that breaks off each part, against one that does not."""
    took: dict[int | None, float] = {}
    for after in (None, BREAK_AFTER):
        root = folder / f"host{after}"
        shelf = Shelf(root)
        shelf.behave(Behaviour(break_after=after))
        with served(create_host(root)) as host:
            Tokens(folder).put(host, shelf.token())
            order = PublishOrder(file="source.bin", name="mix.wav", host=host, title="Mix", state="upload.json")
            begun = time.perf_counter()
            publish(order, folder, lambda _: None)
            took[after] = time.perf_counter() - begun
        ((mix, _),) = shelf.all_mixes()
        if _digest(shelf.mix(mix)[1]) != _digest(folder / "source.bin"):
            raise AssertionError("what arrived is not what was sent")
    size = UPLOADED / 1e6
    return Row(
        f"{size:.0f} MB to a host through {UPLOADED // BREAK_AFTER} broken connections",
        f"whole (SHA-256); {size / took[BREAK_AFTER]:.0f} MB/s",
        f"unbroken: {size / took[None]:.0f} MB/s; ratio {took[None] / took[BREAK_AFTER]:.2f}",
        "whole",
    )


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
