"""Files into texture sets: by the habit of a folder's names, by folder, by content."""

from texel.sorting.habit import Habit, HabitLine, habit_document, parse_habit
from texel.sorting.sort import Sorted, Undecided, sort_files

__all__ = ["Habit", "HabitLine", "Sorted", "Undecided", "habit_document", "parse_habit", "sort_files"]
