"""Long Ember: plan a forged piece from the bar to the last heat."""

__all__ = ["__version__"]

__version__ = "0.1.0"
