"""Files into sets: the jobs that sort an intake, sort again what was taught, and take in the sample folder."""
