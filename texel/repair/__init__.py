"""Mend pictures: colour under alpha, seams, steps in height, light baked into colour."""
