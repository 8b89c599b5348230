"""Speed, measured as ratios to a reference in the same run."""
