"""Sound as arrays: reading, resampling, stretching, equalising, limiting, measuring and writing."""
