"""Finding orders: a good one by annealing, how good it can be by paths with a memory, and proof by constraints."""
