"""What is not known for certain, as one picture: factors with a mean and a covariance, taught by what smiths write down."""

from long_ember.beliefs.belief import NINE_TENTHS, PRIOR, Belief, normal_draws
from long_ember.beliefs.factors import FACTORS, FIELDS, Factor, factor_of, number_of
from long_ember.beliefs.update import GRID, Observed, Posterior, Taken, posterior

__all__ = [
    "FACTORS",
    "FIELDS",
    "GRID",
    "NINE_TENTHS",
    "PRIOR",
    "Belief",
    "Factor",
    "Observed",
    "Posterior",
    "Taken",
    "factor_of",
    "normal_draws",
    "number_of",
    "posterior",
]
