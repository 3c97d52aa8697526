"""The array type of annotations. Loading `numpy.typing` takes 40 ms of the start-up, so only type checkers do."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

__all__ = ["Array", "Index", "Mask", "ordered", "quantile"]

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Array = NDArray[np.float64]
    Index = NDArray[np.int64]
    Mask = NDArray[np.bool_]
else:
    Array = Index = Mask = np.ndarray


def ordered(values: Array) -> Array:
    """Values in order, each once. NumPy's own loads masked arrays for this, which takes 13 ms of the start-up."""
    found = np.sort(values)
    return found[np.concatenate(([True], found[1:] != found[:-1]))] if len(found) else found


def quantile(values: Array, shares: tuple[float, ...]) -> Array:
    """Values below which these shares of all lie, (len(shares),), linear between neighbours. NumPy's own loads masked arrays too.

    Args:
        values: (n,), of any unit.
        shares: 0 to 1.

    >>> quantile(np.array([4.0, 1.0, 2.0]), (0.0, 0.25, 1.0)).tolist()
    [1.0, 1.5, 4.0]
    """
    found = np.sort(values)
    return np.asarray(np.interp(np.array(shares) * (len(found) - 1), np.arange(len(found)), found))
