"""A player that reads tracks, lists, grids, cues and loops from a stick, and writes back what was changed on it."""
