"""The beat of a track: onsets, tempo, metre, bars, and the grid through all of it."""
