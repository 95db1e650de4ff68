"""What makes a good running order: what a step from one track to the next costs, and what is wished of the whole."""
