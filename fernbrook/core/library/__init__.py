"""What can be asked of many tracks: which are meant by a search, which fit, what is doubtful about their files."""
