"""Names of texture files: their parts, what they say, how they are composed."""
