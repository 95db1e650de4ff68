"""The positions of a control over a stretch of a mix: its curve, what the control is, and what a position means."""

from fernbrook.core.mix.curves.control import CONTROLS, Control, ControlSpec, Processor, controls_of
from fernbrook.core.mix.curves.curve import MIN_GAP, MOST_POINTS, Curve, CurvePoint, Onward, Share
from fernbrook.core.mix.curves.law import (
    MIDDLE,
    Law,
    edge_hz,
    gain_of,
    heard_db,
    high_pass_hz,
    low_pass_hz,
    turned_share,
)

__all__ = [
    "CONTROLS",
    "MIDDLE",
    "MIN_GAP",
    "MOST_POINTS",
    "Control",
    "ControlSpec",
    "Curve",
    "CurvePoint",
    "Law",
    "Onward",
    "Processor",
    "Share",
    "controls_of",
    "edge_hz",
    "gain_of",
    "heard_db",
    "high_pass_hz",
    "low_pass_hz",
    "turned_share",
]
