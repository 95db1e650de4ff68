"""What is known of a track: its grid, its sections, its voice spans, its key, and how these are changed by hand."""
