"""The Tables screen."""
