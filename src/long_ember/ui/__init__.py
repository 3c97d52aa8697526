"""The window. PySide6 is imported here and nowhere else."""

import builtins
import gc

import PySide6.QtCore  # noqa: F401

gc.set_threshold(100_000, 20, 20)  # while modules load everything stays: looking through it in between takes a tenth of the start-up
# PySide6 takes the place of `import`, for switches of its own that nothing here uses: it reads the source of every module, a twentieth of the start.
builtins.__import__ = getattr(builtins, "__orig_import__", builtins.__import__)
