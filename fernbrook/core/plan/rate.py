"""The rate of a mix."""

from __future__ import annotations

RATE = 44_100
"""Samples per second of every mix: the rate at which nearly all of a DJ's material comes."""
