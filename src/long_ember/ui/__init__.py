"""The window. PySide6 is imported here and nowhere else."""
