"""The array type of annotations. Loading `numpy.typing` takes 40 ms of the start-up, so only type checkers do."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

__all__ = ["Array", "Index", "Mask"]

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Index = NDArray[np.int64]
    Mask = NDArray[np.bool_]
else:
    Array = Index = Mask = np.ndarray
