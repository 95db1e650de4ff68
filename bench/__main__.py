"""``make bench``: prints all rows as a table; ``python -m bench NAME`` only one group."""

from __future__ import annotations

import sys

from bench import (
    accuracy,
    analysis,
    commands,
    exporting,
    grids,
    key_shift,
    keys,
    kinds,
    memory,
    orders,
    scale,
    speed,
    stems,
    stretch,
    transitions,
    voices,
)

GROUPS = {
    "accuracy": accuracy,
    "stretch": stretch,
    "key_shift": key_shift,
    "orders": orders,
    "transitions": transitions,
    "stems": stems,
    "commands": commands,
    "exporting": exporting,
    "speed": speed,
    "scale": scale,
    "memory": memory,
    "analysis": analysis,
    "grids": grids,
    "kinds": kinds,
    "keys": keys,
    "voices": voices,
}

if __name__ == "__main__":
    print("| what | figure | yardstick, same run | to reach |\n|---|---|---|---|")
    for name, group in GROUPS.items():
        if len(sys.argv) == 1 or name in sys.argv[1:]:
            for row in group.rows():
                print(row, flush=True)
