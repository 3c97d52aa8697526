"""The window. PySide6 is imported here and nowhere else."""

import gc

gc.set_threshold(100_000, 20, 20)  # while modules load everything stays: looking through it in between takes a tenth of the start-up
