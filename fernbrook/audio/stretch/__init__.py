"""Another speed at the same pitch."""

from fernbrook.audio.stretch.held_map import Array, Join, Warp
from fernbrook.audio.stretch.kept_blocks import KeptBlocks
from fernbrook.audio.stretch.stretcher import HOP, REACH, Read, Stretcher

__all__ = [
    "HOP",
    "REACH",
    "Array",
    "Join",
    "KeptBlocks",
    "Read",
    "Stretcher",
    "Warp",
]
