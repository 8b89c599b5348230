"""The demo: invented surfaces drawn by our own seeded generators, and the untidy folder that holds them."""
