"""First maps from one picture: a stop-gap until real ones are there."""
