"""A track taken apart into drums, bass, voice and music."""
