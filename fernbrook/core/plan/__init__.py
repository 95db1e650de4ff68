"""What follows from tracks and mix: the tempo of the whole, what sounds when, and what should be looked at."""
