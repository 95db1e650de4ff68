"""Speed, memory and accuracy, printed as ratios against a yardstick in the same run."""
