"""What a person decides: which tracks in which order, how they meet, and every change to that."""
