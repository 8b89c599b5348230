"""Masters that projects share, and the casts that projects derive from them."""
