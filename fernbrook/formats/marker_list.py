"""Markers of a mix as a table that any editor or spreadsheet reads."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from fernbrook.formats.track_list import clock_ms


@dataclass(frozen=True)
class MarkerLine:
    """A marker: its moment in seconds, what kind it is, and what it is called."""

    at_s: float
    kind: str
    name: str


def marker_list(lines: Sequence[MarkerLine], rate: int) -> str:
    """A CSV (RFC 4180): number, time, seconds, samples at a rate, kind, name."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(["number", "time", "seconds", "sample", "kind", "name"])
    for n, x in enumerate(lines, 1):
        rows.writerow([n, clock_ms(x.at_s), f"{x.at_s:.6f}", round(x.at_s * rate), x.kind, x.name])
    return out.getvalue()
