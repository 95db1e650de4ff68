"""The tones of a track: its harmony and its key."""
