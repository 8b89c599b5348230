"""Scan libraries: searched and taken in from, by an account with a key; newer revisions are told."""
