"""What comes from elsewhere and is joined with what is here: bundles, marks in files, what a player marked."""
