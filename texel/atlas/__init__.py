"""Several surfaces on one map: regions of a set, sets packed into an atlas, and the way back."""
