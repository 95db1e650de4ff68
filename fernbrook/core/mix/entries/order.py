"""The order of entries as blocks: what is kept together stays whole, what is fixed stays in its place."""

from __future__ import annotations

from collections.abc import Sequence

from fernbrook.core.mix.entries.entry import LAST, Entry

Block = tuple[Entry, ...]


def blocks_of(entries: Sequence[Entry]) -> list[Block]:
    """The entries as blocks of those that are kept together; most are blocks of one."""
    blocks: list[Block] = []
    joins = False
    for entry in entries:
        if joins:
            blocks[-1] = (*blocks[-1], entry)
        else:
            blocks.append((entry,))
        joins = entry.with_next
    return blocks


def joined(blocks: Sequence[Block]) -> tuple[Entry, ...]:
    """Blocks as entries in a row, each of a block kept with the one after it."""
    return tuple(
        e if e.with_next == (e is not block[-1]) else e.model_copy(update={"with_next": e is not block[-1]})
        for block in blocks
        for e in block
    )


def start_of(block: Block, total: int) -> int | None:
    """The place, counted from 0 in an order of ``total`` entries, at which a block must begin; None where it is free.

    >>> start_of((Entry(id="a", track_id="t"), Entry(id="b", track_id="t", fixed=LAST)), total=9)
    7
    """
    for offset, entry in enumerate(block):
        if entry.fixed is not None:
            place = total - 1 if entry.fixed == LAST else min(entry.fixed, total) - 1
            return min(max(place - offset, 0), total - len(block))
    return None


def settled(blocks: Sequence[Block]) -> list[Block]:
    """Blocks in an order in which those that are fixed have their places, the others around them as they were.

    Where a block is too long for what is left before a fixed one, one after it that is short enough comes first; where
    none is, the fixed one moves up by what is missing.
    """
    total = sum(len(b) for b in blocks)
    starts = {i: start for i, b in enumerate(blocks) if (start := start_of(b, total)) is not None}
    free = [b for i, b in enumerate(blocks) if i not in starts]
    result: list[Block] = []
    at = 0
    for index in sorted(starts, key=lambda i: (starts[i], any(e.fixed == LAST for e in blocks[i]), i)):
        while at < starts[index]:
            fitting = next((b for b in free if at + len(b) <= starts[index]), None)
            if fitting is None:
                break
            free.remove(fitting)
            result.append(fitting)
            at += len(fitting)
        result.append(blocks[index])
        at += len(blocks[index])
    return result + free


def put_before(blocks: Sequence[Block], moved: Sequence[Block], to: int) -> list[Block]:
    """Blocks with some of them put before the entry that is number ``to`` among the others.

    A place within a block is none: they come before it, or after it where that is nearer.
    """
    rest = [b for b in blocks if b not in moved]
    at, index = 0, 0
    while index < len(rest) and at + len(rest[index]) / 2 < to:
        at += len(rest[index])
        index += 1
    return [*rest[:index], *moved, *rest[index:]]
