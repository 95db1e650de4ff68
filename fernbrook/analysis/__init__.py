"""What can be heard in a track: onsets, tempo, beats, loudness, and the picture of its waveform."""
