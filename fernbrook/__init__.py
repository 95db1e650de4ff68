"""Fernbrook: prepare, hear and render a continuous mix of ordered tracks."""

__version__ = "0.1.0"
